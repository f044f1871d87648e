import { Body, Controller, Delete, Get, HttpCode, Inject, Module, Put, Query } from '@nestjs/common';
import { keptLook, keptName, pageLayout, type KeptLook, type KeptName, type PageLayout, type ShelvesView } from '@rootmap/core/contract';
import { KnownShelves } from '@rootmap/engine/workbench';
import { JoiPipe } from '../http/joi-pipe.js';

/** What people keep for all maps. Every answer is all that is kept now. */
@Controller('api/shelves')
class ShelvesController {
  constructor(@Inject(KnownShelves) private readonly shelves: KnownShelves) {}

  @Get()
  all(): Promise<ShelvesView> {
    return this.shelves.all();
  }

  /** Keeps the layout of a page; one of the same name is replaced. */
  @Put('layouts')
  @HttpCode(200)
  keepLayout(@Body(new JoiPipe(pageLayout)) body: PageLayout): Promise<ShelvesView> {
    return this.shelves.keep('layouts', body);
  }

  @Delete('layouts')
  @HttpCode(200)
  dropLayout(@Query(new JoiPipe(keptName)) { name }: KeptName): Promise<ShelvesView> {
    return this.shelves.drop('layouts', name);
  }

  /** Keeps a look; one of the same name is replaced. */
  @Put('looks')
  @HttpCode(200)
  keepLook(@Body(new JoiPipe(keptLook)) body: KeptLook): Promise<ShelvesView> {
    return this.shelves.keep('looks', body);
  }

  @Delete('looks')
  @HttpCode(200)
  dropLook(@Query(new JoiPipe(keptName)) { name }: KeptName): Promise<ShelvesView> {
    return this.shelves.drop('looks', name);
  }
}

@Module({ controllers: [ShelvesController] })
export class ShelvesModule {}
