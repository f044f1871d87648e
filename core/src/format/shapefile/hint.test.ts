import { readFileSync } from 'node:fs';
import { describe, expect, test } from '@jest/globals';
import type { ByteSource } from '../../bytes/byte-source.js';
import { memorySource } from '../../bytes/byte-source.js';
import type { Feature } from '../../feature/feature.js';
import { parseFilter } from '../../filter/parse-filter.js';
import { testRecord } from '../../filter/test-record.js';
import type { FileGroup } from '../../dataset/dataset.js';
import { shapefileFeatures } from './shapefile-features.js';

const at = 'testdata/open/spdata/shapes/columbus';
const file = (path: string) => ({ path, bytes: 0, modifiedMs: 0 });
const group = { format: 'shapefile', path: `${at}.shp`, main: file(`${at}.shp`), companions: [file(`${at}.dbf`), file(`${at}.shx`)], borrowed: [] } as unknown as FileGroup; // prettier-ignore
const open = (path: string): ByteSource => memorySource(readFileSync(path));

describe('a hint lets records be left out before they are decoded', () => {
  test.each(['CRIME > 30', 'CP = 1 AND INC < 12.5', 'POLYID IN (1, 2, 49)', 'CRIME > 1000', 'nothing = 1', 'CRIME IS NULL'])(
    '%s',
    (text) => {
      const parsed = parseFilter(text);
      if (!parsed.ok) throw new Error(text);
      const read = (more: object): Feature[] =>
        Array.from(shapefileFeatures(group, open, { geometry: true, values: true, ...more }).features, (f) => ({
          ...f,
          geometry: f.geometry && f.geometry.slice(), // good until the next one only
        }));
      const { fields } = shapefileFeatures(group, open, { geometry: true, values: true });
      const all = read({});
      const meets = (f: Feature): boolean =>
        testRecord(parsed.condition, (name) => f.values[fields.findIndex((x) => x.name === name)]) === true;
      expect(all).toHaveLength(49);
      expect(read({ hint: parsed.condition })).toEqual(all.filter(meets));
      expect(read({ hint: parsed.condition, range: { from: 20, to: 30 } })).toEqual(all.slice(20, 30).filter(meets));
    },
  );
});
