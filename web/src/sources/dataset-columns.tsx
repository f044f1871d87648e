import type { ReactNode } from 'react';
import { bytes, dateTime, kindWord, number } from '../parts/format.js';
import { PathText } from '../parts/path-text.js';
import { Tag } from '../parts/states.js';
import { Thumbnail } from '../pictures/thumbnail.js';
import { findingsOf, type Column, type DatasetRow } from './dataset-rows.js';

export interface ColumnShape {
  readonly column: Column;
  readonly label: string;
  readonly width: string;
  readonly isRight?: boolean;
  readonly isMono?: boolean;
  readonly cell: (row: DatasetRow, projectKey: string) => ReactNode;
}

/** Everything that can be shown of a dataset in the table. */
export const COLUMNS: readonly ColumnShape[] = [
  {
    column: 'picture',
    label: 'Picture',
    width: '48px',
    cell: ({ dataset, source }, projectKey) => <Thumbnail projectKey={projectKey} dataset={dataset} modifiedMs={source?.modifiedMs ?? 0} />,
  },
  {
    column: 'name',
    label: 'Name',
    width: 'minmax(0, 1.3fr)',
    isMono: true,
    cell: (r) => (
      <span style={{ textDecoration: findingsOf(r).length ? 'underline wavy var(--ochre)' : undefined, textUnderlineOffset: 3 }}>
        {r.dataset.name}
      </span>
    ),
  },
  {
    column: 'where',
    label: 'Where',
    width: 'minmax(0, 1.2fr)',
    cell: ({ dataset: d }) => (
      <>
        {d.link && <Tag tone="slate">{d.link}</Tag>}{' '}
        <PathText path={d.folder || (d.link ? '' : '.')} most={30} colour="var(--soft)" isInRow />
      </>
    ),
  },
  { column: 'kind', label: 'Kind', width: '72px', cell: ({ dataset: d }) => kindWord(d.geometry) || d.kind },
  {
    column: 'count',
    label: 'Records',
    width: '60px',
    isRight: true,
    cell: ({ dataset: d }) => (d.count === null ? '' : number(d.count)),
  },
  {
    column: 'crs',
    label: 'CRS',
    width: '88px',
    isMono: true,
    cell: ({ dataset: d }) => d.crs ?? (d.kind === 'table' ? '' : <span style={{ color: 'var(--plum)' }}>none</span>),
  },
  {
    column: 'extent',
    label: 'Extent',
    width: 'minmax(0, 1.2fr)',
    isMono: true,
    cell: ({ source: s }) => (s?.bbox ? s.bbox.map((n) => Math.round(n * 100) / 100).join(' ') : ''),
  },
  {
    column: 'bytes',
    label: 'Size',
    width: '72px',
    isRight: true,
    cell: ({ dataset: d }) => <span title={`${number(d.bytes)} bytes`}>{bytes(d.bytes)}</span>,
  },
  {
    column: 'modified',
    label: 'Changed',
    width: '82px',
    cell: ({ source: s }) => (s ? <span title={dateTime(s.modifiedMs)}>{dateTime(s.modifiedMs).slice(0, 10)}</span> : ''),
  },
  { column: 'owner', label: 'Owner', width: '96px', cell: ({ source: s }) => s?.owner ?? '' },
  { column: 'origin', label: 'Origin', width: 'minmax(0, 0.9fr)', cell: ({ source: s }) => s?.origin?.publisher ?? '' },
  {
    column: 'used',
    label: 'Layers',
    width: '50px',
    isRight: true,
    cell: ({ source: s }) => (s && s.usedBy > 0 ? number(s.usedBy) : ''),
  },
  {
    column: 'findings',
    label: 'Findings',
    width: '66px',
    isRight: true,
    cell: (r) => (findingsOf(r).length > 0 ? number(findingsOf(r).length) : ''),
  },
];

/** Those that a table begins with: the others are asked for. */
export const FIRST_SHOWN: readonly Column[] = ['picture', 'name', 'where', 'kind', 'count', 'crs', 'bytes', 'modified', 'origin', 'used'];
