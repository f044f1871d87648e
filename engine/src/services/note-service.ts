import type { ProjectNote } from '@rootmap/core';
import type { AppliedView, NoteQuery, NotesView, NoteView, PassageRequest, PathRequest } from '@rootmap/core/contract';
import type { Ports } from './ports.js';
import { refuseDamaged, type SourceService } from './source-service.js';

/** Notes that came with data: shown, and taken over as what the publisher states. */
export class NoteService {
  constructor(
    private readonly ports: Pick<Ports, 'pool' | 'projects' | 'changes' | 'places'>,
    private readonly sources: Pick<SourceService, 'arrived'>,
  ) {}

  /** What people keep on their project, the oldest first. */
  async ofProject(key: string): Promise<readonly ProjectNote[]> {
    return this.ports.pool.run('project-notes', await this.ports.projects.base(key));
  }

  async list(key: string, dataset: string): Promise<NotesView> {
    return this.ports.pool.run('notes', { ...(await this.ports.projects.base(key)), dataset });
  }

  async read(key: string, query: NoteQuery, signal: AbortSignal): Promise<NoteView> {
    return this.ports.pool.run('note', { ...(await this.ports.projects.base(key)), ...query }, { signal });
  }

  /** Any document of a place. */
  async readDocument(key: string, at: PathRequest, signal: AbortSignal): Promise<NoteView> {
    const path = this.ports.places.path(at);
    return this.ports.pool.run('document', { ...(await this.ports.projects.base(key)), path }, { signal });
  }

  /** A note of something that arrived and is not unpacked yet. */
  async readPacked(key: string, arrival: string, path: string, signal: AbortSignal): Promise<NoteView> {
    const { file } = this.sources.arrived(arrival);
    return this.ports.pool.run('packed-note', { ...(await this.ports.projects.base(key)), file, path }, { signal });
  }

  /** A passage becomes what is stated of datasets, or is none any more. */
  async take(key: string, request: PassageRequest, who: string): Promise<AppliedView> {
    const base = await this.ports.projects.base(key, who);
    const { change, damaged } = await this.ports.pool.run('plan-passage', { ...base, ...request });
    refuseDamaged(damaged);
    return this.ports.changes.apply(key, base, change, request.datasets.length);
  }
}
