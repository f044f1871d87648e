import { Controller, Get, Headers, HttpException, Inject, Param, Query, Req, Res } from '@nestjs/common';
import type { Request, Response } from 'express';
import { openCollections, type Collection } from './collections.js';
import { drawPicture, PICTURE_CRS, type Box } from './draw-picture.js';
import { TILE_KEY, type Switches } from './switches.js';

export const SWITCHES = Symbol('switches');

const escape = (text: string): string => text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('"', '&quot;');

/** A WMS 1.3.0 and 1.1.1 (OGC 06-042, OGC 01-068r3), and tiles, over the collections of the bay. */
@Controller()
export class ChartsController {
  private readonly collections = openCollections();

  constructor(@Inject(SWITCHES) private readonly switches: Switches) {}

  @Get(['charts/wms', 'charts2/wms'])
  async wms(@Req() request: Request, @Query() query: Readonly<Record<string, string>>, @Res() response: Response): Promise<void> {
    const asked = Object.fromEntries(Object.entries(query).map(([k, v]) => [k.toUpperCase(), String(v)]));
    if (this.switches.moved && request.path.startsWith('/charts/')) {
      const port = request.get('host')?.split(':')[1];
      const search = request.originalUrl.split('?')[1];
      return response.redirect(301, `http://localhost:${port}/charts2/wms${search ? `?${search}` : ''}`);
    }
    const isOld = (asked['VERSION'] ?? '').startsWith('1.1');
    if (asked['REQUEST'] === 'GetMap') return this.map(asked, isOld, response);
    if (asked['REQUEST'] !== 'GetCapabilities')
      return refuse(response, isOld, 'OperationNotSupported', 'GetCapabilities and GetMap are answered.');
    const address = `${request.protocol}://${request.get('host')}${request.path}`;
    response.type('text/xml').send(isOld ? capabilities111(this.collections, address) : capabilities130(this.collections, address));
  }

  private async map(asked: Readonly<Record<string, string>>, isOld: boolean, response: Response): Promise<void> {
    const layers = (asked['LAYERS'] ?? '').split(',').filter(Boolean);
    const wanted = layers.flatMap((name) => this.collections.filter((c) => c.id === name || name === 'bay'));
    if (wanted.length === 0) return refuse(response, isOld, 'LayerNotDefined', `There is no layer ${layers.join(', ') || 'asked for'}.`);
    const crs = asked[isOld ? 'SRS' : 'CRS'] ?? '';
    if (!PICTURE_CRS.some((c) => c === crs)) return refuse(response, isOld, isOld ? 'InvalidSRS' : 'InvalidCRS', `${crs} is not drawn.`);
    const numbers = (asked['BBOX'] ?? '').split(',').map(Number);
    const [width, height] = [Number(asked['WIDTH']), Number(asked['HEIGHT'])];
    if (numbers.length !== 4 || !numbers.every(Number.isFinite) || !(width >= 1 && width <= 4096 && height >= 1 && height <= 4096))
      return refuse(response, isOld, 'InvalidParameterValue', 'BBOX, WIDTH and HEIGHT are needed.');
    const [a, b, c, d] = numbers as [number, number, number, number];
    // Axes in the order of the CRS: latitude first in EPSG:4326 of 1.3.0 (OGC 06-042, 6.7.2).
    const box: Box = !isOld && crs === 'EPSG:4326' ? [b, a, d, c] : [a, b, c, d];
    response.setHeader('cache-control', 'max-age=60');
    response.type('image/png').send(await drawPicture(wanted, crs, box, width, height));
  }

  @Get('tiles/:z/:x/:y.png')
  tile(@Param() at: Readonly<Record<'z' | 'x' | 'y', string>>, @Res() response: Response): Promise<void> {
    return this.drawTile(at, response);
  }

  /** The same for those who have a key, as a parameter or a header. */
  @Get('keyed/:z/:x/:y.png')
  keyed(
    @Param() at: Readonly<Record<'z' | 'x' | 'y', string>>,
    @Query('api_key') asked: string | undefined,
    @Headers('x-api-key') header: string | undefined,
    @Res() response: Response,
  ): Promise<void> {
    if ((asked ?? header) !== TILE_KEY) throw new HttpException('A key is needed.', 401);
    return this.drawTile(at, response);
  }

  private async drawTile(at: Readonly<Record<'z' | 'x' | 'y', string>>, response: Response): Promise<void> {
    const [z, x, y] = [Number(at.z), Number(at.x), Number(at.y)];
    if (![z, x, y].every(Number.isInteger) || z < 0 || z > 18 || x < 0 || y < 0 || x >= 2 ** z || y >= 2 ** z)
      throw new HttpException('There is no such tile.', 404);
    const half = Math.PI * 6_378_137;
    const side = (2 * half) / 2 ** z;
    const box: Box = [x * side - half, half - (y + 1) * side, (x + 1) * side - half, half - y * side];
    response.setHeader('cache-control', 'max-age=60');
    response.type('image/png').send(await drawPicture(this.collections, 'EPSG:3857', box, 256, 256));
  }
}

function refuse(response: Response, isOld: boolean, code: string, why: string): void {
  const head = isOld
    ? '<ServiceExceptionReport version="1.1.1">'
    : '<ServiceExceptionReport version="1.3.0" xmlns="http://www.opengis.net/ogc">';
  const text = `<?xml version="1.0" encoding="UTF-8"?>\n${head}<ServiceException code="${code}">${escape(why)}</ServiceException></ServiceExceptionReport>`;
  response.type(isOld ? 'application/vnd.ogc.se_xml' : 'text/xml').send(text);
}

const contact =
  '<ContactInformation><ContactPersonPrimary><ContactPerson>The chart desk</ContactPerson><ContactOrganization>Ellisande Hydrographic Office</ContactOrganization></ContactPersonPrimary></ContactInformation>';

function capabilities130(collections: readonly Collection[], address: string): string {
  const layer = (c: Collection): string =>
    `<Layer queryable="0"><Name>${c.id}</Name><Title>${escape(c.title)}</Title><Abstract>${escape(c.description)}</Abstract><KeywordList>${c.keywords.map((k) => `<Keyword>${k}</Keyword>`).join('')}</KeywordList><EX_GeographicBoundingBox><westBoundLongitude>${c.box[0]}</westBoundLongitude><eastBoundLongitude>${c.box[2]}</eastBoundLongitude><southBoundLatitude>${c.box[1]}</southBoundLatitude><northBoundLatitude>${c.box[3]}</northBoundLatitude></EX_GeographicBoundingBox><BoundingBox CRS="EPSG:4326" minx="${c.box[1]}" miny="${c.box[0]}" maxx="${c.box[3]}" maxy="${c.box[2]}"/><Attribution><Title>© ${escape(c.publisher)}</Title></Attribution></Layer>`;
  const all = boxOfAll(collections);
  return `<?xml version="1.0" encoding="UTF-8"?>
<WMS_Capabilities version="1.3.0" xmlns="http://www.opengis.net/wms" xmlns:xlink="http://www.w3.org/1999/xlink">
<Service><Name>WMS</Name><Title>Charts of the Ellisande Hydrographic Office</Title><Abstract>A stand-in that ships with the demo: its data are invented.</Abstract><OnlineResource xlink:type="simple" xlink:href="${escape(address)}"/>${contact}<Fees>none</Fees><AccessConstraints>everybody</AccessConstraints></Service>
<Capability><Request><GetCapabilities><Format>text/xml</Format><DCPType><HTTP><Get><OnlineResource xlink:type="simple" xlink:href="${escape(address)}?"/></Get></HTTP></DCPType></GetCapabilities><GetMap><Format>image/png</Format><DCPType><HTTP><Get><OnlineResource xlink:type="simple" xlink:href="${escape(address)}?"/></Get></HTTP></DCPType></GetMap></Request><Exception><Format>XML</Format></Exception>
<Layer><Name>bay</Name><Title>The whole bay</Title>${PICTURE_CRS.map((c) => `<CRS>${c}</CRS>`).join('')}<EX_GeographicBoundingBox><westBoundLongitude>${all[0]}</westBoundLongitude><eastBoundLongitude>${all[2]}</eastBoundLongitude><southBoundLatitude>${all[1]}</southBoundLatitude><northBoundLatitude>${all[3]}</northBoundLatitude></EX_GeographicBoundingBox><BoundingBox CRS="EPSG:4326" minx="${all[1]}" miny="${all[0]}" maxx="${all[3]}" maxy="${all[2]}"/>${collections.map(layer).join('\n')}</Layer>
</Capability></WMS_Capabilities>`;
}

function capabilities111(collections: readonly Collection[], address: string): string {
  const crs = PICTURE_CRS.filter((c) => c !== 'CRS:84');
  const boxOf = (b: readonly number[]): string => `<LatLonBoundingBox minx="${b[0]}" miny="${b[1]}" maxx="${b[2]}" maxy="${b[3]}"/>`;
  const layer = (c: Collection): string =>
    `<Layer queryable="0"><Name>${c.id}</Name><Title>${escape(c.title)}</Title><Abstract>${escape(c.description)}</Abstract>${boxOf(c.box)}</Layer>`;
  return `<?xml version="1.0" encoding="UTF-8"?>
<WMT_MS_Capabilities version="1.1.1"><Service><Name>OGC:WMS</Name><Title>Charts of the Ellisande Hydrographic Office</Title><OnlineResource xmlns:xlink="http://www.w3.org/1999/xlink" xlink:type="simple" xlink:href="${escape(address)}"/>${contact}<Fees>none</Fees><AccessConstraints>everybody</AccessConstraints></Service><Capability><Request><GetCapabilities><Format>application/vnd.ogc.wms_xml</Format></GetCapabilities><GetMap><Format>image/png</Format><DCPType><HTTP><Get><OnlineResource xmlns:xlink="http://www.w3.org/1999/xlink" xlink:type="simple" xlink:href="${escape(address)}?"/></Get></HTTP></DCPType></GetMap></Request><Exception><Format>application/vnd.ogc.se_xml</Format></Exception><Layer><Name>bay</Name><Title>The whole bay</Title>${crs.map((c) => `<SRS>${c}</SRS>`).join('')}${boxOf(boxOfAll(collections))}${collections.map(layer).join('\n')}</Layer></Capability></WMT_MS_Capabilities>`;
}

const boxOfAll = (collections: readonly Collection[]): Box => [
  Math.min(...collections.map((c) => c.box[0])),
  Math.min(...collections.map((c) => c.box[1])),
  Math.max(...collections.map((c) => c.box[2])),
  Math.max(...collections.map((c) => c.box[3])),
];
