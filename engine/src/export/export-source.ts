import {
  commonKind,
  countArcs,
  ProblemError,
  kindOfShapes,
  kindOfWkb,
  readFeatures,
  straightWkb,
  wkbCode,
  type Feature,
  type FeatureStream,
  type Field,
  type Wanted,
  EVERY_RECORD,
} from '@rootmap/core';
import type { ExportRequest } from '@rootmap/core/contract';
import { crsKey, keyName } from '../crs/definitions.js';
import { transformer } from '../crs/transformer.js';
import type { NodePlatform } from '../survey/platform.js';
import { moved } from '../geopackage-write/records.js';
import { recordSelector } from '../rows/select-records.js';
import { versionOf } from '../disk/cache-folder.js';
import type { FoundDataset } from '../project/find-dataset.js';

/** The CRS of GeoJSON (RFC 7946, section 4). */
const WGS84 = 'EPSG:4326';

/** How records are wanted: the format, the CRS, and which of them. */
export type RecordsWanted = Pick<ExportRequest, 'format' | 'crs'> &
  Partial<Pick<ExportRequest, 'selection'>> & {
    /** What the plan found out of what is selected, so that it need not be found out again. */
    readonly facts?: SelectedFacts | null;
    /** What is selected is not counted before it is written, where its kind is known without: for whoever does not show a plan. */
    readonly isQuick?: boolean;
  };

/** What only a look at every record that is selected tells. */
export interface SelectedFacts extends Pick<ExportSource, 'kind' | 'arcs' | 'selected'> {
  /** State of the data that it was told of. */
  readonly version: string;
}

/** What an export reads: records with their shapes in the CRS that they are written in. */
export interface ExportSource {
  readonly fields: readonly Field[];
  readonly records: (wanted?: Wanted) => FeatureStream;
  /** `EPSG:n` of what is written; null: nobody knows. */
  readonly crs: string | null;
  readonly isMoved: boolean;
  /** Kind that holds all shapes; null: a table. */
  readonly kind: string | null;
  /** Shapes whose arcs become chords. */
  readonly arcs: number;
  /** How many records are selected; null: all of them, or they are not counted. */
  readonly selected: number | null;
  /** Of a selection, to be handed on; null: all records are meant. */
  readonly facts: SelectedFacts | null;
}

/** Throws where the coordinates cannot be told in the CRS that is asked for, or what is selected cannot be told. */
export function exportSource(found: FoundDataset, platform: NodePlatform, request: RecordsWanted): ExportSource {
  const { dataset } = found;
  const isTable = dataset.kind === 'table';
  const asked = isTable ? null : request.format === 'geojson' ? WGS84 : request.crs;
  const crs = isTable ? null : (asked ?? dataset.crs?.code ?? null);
  // Whether its own CRS is known here matters only where positions are computed.
  const own = asked === null ? null : crsKey(dataset.crs);
  const isMoved = asked !== null && asked !== own && asked !== dataset.crs?.code;
  const to = isMoved && own !== null ? transformer(own, asked) : null;
  if (isMoved && !to) {
    const why =
      own === null ? 'nobody knows which CRS it is in: find its CRS first' : `how ${keyName(own)} becomes ${asked} is not known here`;
    throw new ProblemError({ code: 'wrong-use', message: `${dataset.group.path} cannot be computed in ${asked}: ${why}.` });
  }
  const selector = recordSelector(found, request.selection ?? EVERY_RECORD);
  const asStored = (wanted: Wanted): FeatureStream => selector.of(readFeatures(dataset, platform, selector.wanted(wanted)));
  const records = (wanted: Wanted = { geometry: !isTable, values: true }): FeatureStream => {
    const { fields, features } = asStored(wanted);
    return { fields, features: to ? moved(features, to) : features };
  };
  const about = { fields: dataset.fields ?? [], records, crs, isMoved };
  if (!selector.isAll) {
    const version = versionOf(found);
    const known = request.facts?.version === version ? request.facts : null;
    const quick = request.isQuick ? quickFacts(dataset, platform) : null;
    const facts = known ?? { ...(quick ?? selectedFacts(asStored, isTable)), version };
    return { ...about, kind: facts.kind, arcs: facts.arcs, selected: facts.selected, facts };
  }
  const kind = isTable ? null : (kindOfShapes(dataset, platform) ?? 'Geometry');
  return { ...about, kind, arcs: isTable ? 0 : countArcs(dataset, platform), selected: null, facts: null };
}

type Facts = Omit<SelectedFacts, 'version'>;

/** What is known of shapes without a look at each; null: it is not. */
function quickFacts(dataset: FoundDataset['dataset'], platform: NodePlatform): Facts | null {
  if (dataset.kind === 'table') return { kind: null, arcs: 0, selected: null };
  const declared = dataset.group.format === 'shapefile' ? kindOfShapes(dataset, platform) : dataset.geometryType;
  return declared !== null && PLAIN_KIND.test(declared) ? { kind: declared, arcs: 0, selected: null } : null;
}
/** Kinds that have no arcs, and of which a table holds nothing else. */
const PLAIN_KIND = /^(Multi)?(Point|LineString|Polygon)[ZM]*$/;

function selectedFacts(records: (wanted: Wanted) => FeatureStream, isTable: boolean): Facts {
  const kinds = new Set<string>();
  let [arcs, selected] = [0, 0];
  for (const { geometry } of records({ geometry: !isTable, values: false, curves: 'kept' }).features) {
    selected++;
    if (!geometry) continue;
    const straight = straightWkb(geometry);
    if (straight !== geometry) arcs++;
    if (straight) kinds.add(kindOfWkb(straight) ?? 'Geometry');
  }
  return { kind: isTable ? null : (commonKind(kinds) ?? 'Geometry'), arcs, selected };
}

/** Counts what becomes of records. */
export class ExportTally {
  read = 0;
  written = 0;
  /** Records whose shapes have heights, and measures; values that are no numbers. */
  heights = 0;
  measures = 0;
  noNumbers = 0;
  readonly skipped: { record: number; why: string }[] = [];

  constructor(private readonly onProgress: (done: number) => void) {}

  /** @param isWritten false: its shape is damaged, or has no place in the CRS */
  add({ geometry, values }: Feature, isWritten: boolean): void {
    this.read++;
    const dimensions = geometry ? Math.floor(wkbCode(geometry) / 1000) : 0; // 1 for Z, 2 for M, 3 for both
    if ((dimensions & 1) > 0) this.heights++;
    if ((dimensions & 2) > 0) this.measures++;
    for (const v of values) if (typeof v === 'number' && !Number.isFinite(v)) this.noNumbers++;
    if (isWritten) this.written++;
    else if (this.skipped.length < 1000) this.skipped.push({ record: this.read, why: 'its shape is damaged, or has no place in this CRS' });
    if ((this.read & 4095) === 0) this.onProgress(this.read);
  }
}
