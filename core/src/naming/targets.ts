import { isWordOfSql } from './table-name.js';
import { unportableName } from './portable-name.js';

/** What a name is the name of. A container is the file of a geodatabase. */
export const NAME_SORTS = ['folder', 'file', 'container', 'table', 'field'] as const;
export type NameSort = (typeof NAME_SORTS)[number];

/** Something that has to take a name, and what it takes. */
export interface NameTarget {
  readonly target: string;
  readonly takes: string;
  /** The standard that says so. */
  readonly source: string;
  /** Why it does not take a name; null: it does. */
  readonly refuses: (name: string) => string | null;
}

const fits = (pattern: RegExp, why: string) => (name: string) => (pattern.test(name) ? null : why);

const SYSTEMS: NameTarget = {
  target: 'disks of Windows, macOS and Linux',
  takes: '255 characters and bytes, none of < > : " / \\ | ? *, no space or period at the end, no name of a device',
  source: 'Microsoft Learn, Naming Files, Paths, and Namespaces; POSIX.1-2017, 3.170',
  refuses: unportableName,
};
const FAT: NameTarget = {
  target: 'FAT without long names',
  takes: '8 letters and digits before the ending',
  source: 'ECMA-107, 11.1.1',
  refuses: fits(/^[A-Za-z0-9!#$%&'()@^_`{}~-]{1,8}$/, 'it takes 8 letters and digits'),
};
const ADDRESS: NameTarget = {
  target: 'web addresses, as they are',
  takes: 'letters, digits and - . _ ~',
  source: 'RFC 3986, 2.3',
  refuses: fits(/^[A-Za-z0-9._~-]+$/, 'other letters and signs are written as % and numbers there'),
};
const SQL: NameTarget = {
  target: 'SQL without quotes',
  takes: 'a letter, then letters, digits and _, up to 128 of them; no word of SQL',
  source: 'ISO/IEC 9075-2, 5.2 and 5.4',
  refuses: (name) =>
    !/^\p{L}[\p{L}\p{N}_]*$/u.test(name)
      ? 'it wants a letter, then letters, digits and _'
      : name.length > 128
        ? 'it takes 128 characters'
        : isWordOfSql(name)
          ? 'it is a word of SQL'
          : null,
};
const XML: NameTarget = {
  target: 'GML and other XML, as an element',
  takes: 'a letter or _, then letters, digits and - . _',
  source: 'Namespaces in XML 1.0, NCName',
  refuses: fits(/^[\p{L}_][\p{L}\p{N}\p{M}._-]*$/u, 'it wants a letter or _, then letters, digits and - . _'),
};

/** What has to take a name of each sort. */
export const NAME_TARGETS: Readonly<Record<NameSort, readonly NameTarget[]>> = {
  folder: [SYSTEMS, ADDRESS],
  file: [SYSTEMS, FAT, ADDRESS],
  container: [SYSTEMS, ADDRESS],
  table: [
    {
      target: 'a GeoPackage',
      takes: 'any name that does not begin with gpkg_, rtree_ or sqlite_',
      source: 'OGC 12-128r17, 1.1.1 and F.3; SQLite, CREATE TABLE',
      refuses: (name) => (/^(gpkg_|rtree_|sqlite_)/i.test(name) ? 'such names are the container’s own' : null),
    },
    SQL,
    XML,
    { ...SYSTEMS, target: 'a file of its own, once it is exported' },
  ],
  field: [
    {
      target: 'shapefiles and dBASE tables',
      takes: '10 letters, digits and _ without accents',
      source: 'dBASE III, field descriptor: 11 bytes, the last of them zero',
      refuses: fits(/^[A-Za-z0-9_]{1,10}$/, 'they take 10 letters, digits and _ without accents'),
    },
    SQL,
    XML,
  ],
};

/** Those that do not take a name, each with its reason. */
export const refusedBy = (sort: NameSort, name: string): { readonly target: string; readonly why: string; readonly source: string }[] =>
  NAME_TARGETS[sort].flatMap(({ target, source, refuses }) => {
    const why = refuses(name);
    return why === null ? [] : [{ target, why, source }];
  });
