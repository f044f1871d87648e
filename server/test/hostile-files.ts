import { readFileSync, rmSync } from 'node:fs';
import Database from 'better-sqlite3';
import { gzipSync } from 'node:zlib';
import { writeZip } from '../../engine/test/small-zip.js';

/**
 * Data files made to hang, flood or mislead whoever reads them, by name. Where a kind of attack has a number or a paper, it stands
 * beside it; the others are what the formats' own texts allow to be written and no honest writer writes.
 */
export function hostileFiles(
  geopackage: (make: (db: Database.Database) => void) => Buffer,
  open: (name: string) => Buffer,
): Record<string, Buffer | string> {
  const feature = (geometry: string, properties = '{}'): string => `{"type":"Feature","properties":${properties},"geometry":${geometry}}`;
  const collection = (...features: string[]): string => `{"type":"FeatureCollection","features":[${features.join(',')}]}`;
  const deep = (n: number, inner: string): string => '['.repeat(n) + inner + ']'.repeat(n);
  const ENDLESS = 'WITH RECURSIVE n(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM n) SELECT x AS fid, NULL AS geom FROM n';
  const le = (bytes: number, write: (b: Buffer) => void): Buffer => {
    const b = Buffer.alloc(bytes);
    write(b);
    return b;
  };
  const shp = (records: Buffer, type = 5): Buffer =>
    Buffer.concat([
      le(100, (b) => {
        b.writeInt32BE(9994, 0);
        b.writeInt32BE((100 + records.length) / 2, 24);
        b.writeInt32LE(1000, 28);
        b.writeInt32LE(type, 32);
      }),
      records,
    ]);
  const record = (words: number, content: Buffer): Buffer =>
    Buffer.concat([le(8, (b) => (b.writeInt32BE(1, 0), b.writeInt32BE(words, 4))), content]);
  const tiff = (...tags: readonly (readonly [number, number, number, number])[]): Buffer =>
    le(8 + 2 + tags.length * 12 + 4, (b) => {
      b.write('II*\0', 'latin1');
      b.writeUInt32LE(8, 4);
      b.writeUInt16LE(tags.length, 8);
      tags.forEach(([tag, type, count, value], i) => {
        b.writeUInt16LE(tag, 10 + i * 12);
        b.writeUInt16LE(type, 12 + i * 12);
        b.writeUInt32LE(count, 14 + i * 12);
        b.writeUInt32LE(value, 18 + i * 12);
      });
    });
  const big = [
    [256, 4, 1, 4_000_000_000],
    [257, 4, 1, 4_000_000_000],
    [258, 3, 1, 8],
    [259, 3, 1, 1],
    [273, 4, 1, 8],
    [277, 3, 1, 1],
    [278, 4, 1, 1],
    [279, 4, 1, 100],
  ] as const;
  const dbf = (records: number, header: number, length: number, rest = Buffer.alloc(0)): Buffer =>
    Buffer.concat([
      le(32, (b) => {
        b[0] = 3;
        b.writeUInt32LE(records, 4);
        b.writeUInt16LE(header, 8);
        b.writeUInt16LE(length, 10);
      }),
      rest,
    ]);
  const kml = (body: string): string =>
    `<?xml version="1.0"?><kml xmlns="http://www.opengis.net/kml/2.2"><Document>${body}</Document></kml>`;
  const xlsx = (sheet: string | Buffer, strings: string | Buffer = '<sst/>'): Buffer =>
    writeZip({
      '[Content_Types].xml': '<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"/>',
      'xl/workbook.xml':
        '<workbook xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships"><sheets><sheet name="a" sheetId="1" r:id="rId1"/></sheets></workbook>',
      'xl/_rels/workbook.xml.rels':
        '<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rId1" Type="x/worksheet" Target="worksheets/sheet1.xml"/></Relationships>',
      'xl/worksheets/sheet1.xml': sheet,
      'xl/sharedStrings.xml': strings,
    });
  // CWE-776, after 'billion laughs' (msdn.microsoft.com, XML Denial of Service Attacks and Defenses, 2009).
  const LAUGHS = `<!DOCTYPE x [<!ENTITY a "aaaaaaaaaa">${'bcdefghij'
    .split('')
    .map((c, i) => `<!ENTITY ${c} "${`&${'abcdefghi'[i]!};`.repeat(10)}">`)
    .join('')}]>`;
  const point = Buffer.from('47500001e61000000101000000000000000000f03f0000000000000040', 'hex');
  const blob = (hex: string): Buffer => Buffer.concat([point.subarray(0, 8), Buffer.from(hex, 'hex')]);
  const withGeometry = (hex: string) =>
    geopackage((db) => {
      db.prepare('INSERT INTO a VALUES (100, ?, ?)').run(blob(hex), 'x');
    });
  return {
    // SQLite's own page on databases of strangers (sqlite.org, security): views, triggers, virtual tables, expressions.
    'view-endless.gpkg': geopackage((db) => db.exec(`DROP TABLE a; CREATE VIEW a AS ${ENDLESS}`)),
    'contents-endless.gpkg': geopackage((db) =>
      db.exec(
        `ALTER TABLE gpkg_contents RENAME TO was; CREATE VIEW gpkg_contents AS WITH RECURSIVE n(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM n) SELECT 't' || x AS table_name, 'features' AS data_type, 0 AS min_x, 0 AS min_y, 0 AS max_x, 0 AS max_y, 0 AS srs_id FROM n`,
      ),
    ),
    'columns-endless.gpkg': geopackage((db) =>
      db.exec(
        `ALTER TABLE gpkg_geometry_columns RENAME TO was; CREATE VIEW gpkg_geometry_columns AS WITH RECURSIVE n(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM n) SELECT 'b' AS table_name, 'geom' AS column_name, 'POINT' AS geometry_type_name, 0 AS srs_id, 0 AS z, 0 AS m FROM n WHERE x < 0`,
      ),
    ),
    'srs-endless.gpkg': geopackage((db) =>
      db.exec(
        `ALTER TABLE gpkg_spatial_ref_sys RENAME TO was; CREATE VIEW gpkg_spatial_ref_sys AS WITH RECURSIVE n(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM n) SELECT x AS srs_id, '' AS srs_name, 'EPSG' AS organization, x AS organization_coordsys_id, '' AS definition FROM n WHERE x < 0`,
      ),
    ),
    'view-of-itself.gpkg': geopackage((db) => db.exec('DROP TABLE a; CREATE VIEW a AS SELECT * FROM b; CREATE VIEW c AS SELECT * FROM a')),
    'virtual.gpkg': geopackage((db) => db.exec('DROP TABLE a; CREATE VIRTUAL TABLE a USING fts5(fid, geom, n)')),
    'trigger-endless.gpkg': geopackage((db) =>
      db.exec(
        `CREATE TRIGGER t AFTER INSERT ON a BEGIN INSERT INTO b SELECT x + 1000, x FROM (WITH RECURSIVE n(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM n) SELECT x FROM n); END`,
      ),
    ),
    'generated.gpkg': geopackage((db) =>
      db.exec('DROP TABLE b; CREATE TABLE b (fid INTEGER PRIMARY KEY, v AS (hex(zeroblob(100000000)))); INSERT INTO b (fid) VALUES (1)'),
    ),
    'check.gpkg': geopackage((db) =>
      db.exec(
        "DROP TABLE b; CREATE TABLE b (fid INTEGER PRIMARY KEY, v TEXT CHECK (length(replace(hex(zeroblob(1000)), '0', hex(zeroblob(1000)))) > 0))",
      ),
    ),
    'many-tables.gpkg': geopackage((db) => {
      for (let i = 0; i < 3000; i++) db.exec(`CREATE TABLE t${i} (fid INTEGER PRIMARY KEY)`);
    }),
    'listed-not-there.gpkg': geopackage((db) => {
      const insert = db.prepare("INSERT INTO gpkg_contents VALUES (?, 'features', ?, '', '', 0, 0, 1, 1, 4326)");
      for (let i = 0; i < 3000; i++) insert.run(`gone ${i}`, `gone ${i}`);
    }),
    'wide.gpkg': geopackage((db) =>
      db.exec(`DROP TABLE b; CREATE TABLE b (fid INTEGER PRIMARY KEY, ${Array.from({ length: 1990 }, (_, i) => `c${i} TEXT`).join(', ')})`),
    ),
    'names.gpkg': geopackage((db) => {
      const name = '"; DROP TABLE a; --';
      db.exec(`CREATE TABLE "${name.replaceAll('"', '""')}" (fid INTEGER PRIMARY KEY, "a""b" TEXT)`);
      db.prepare("INSERT INTO gpkg_contents VALUES (?, 'attributes', ?, '', '', NULL, NULL, NULL, NULL, NULL)").run(name, 'injection'); // CWE-89
    }),
    'no-text.gpkg': geopackage(
      (db) =>
        void db
          .prepare("INSERT INTO gpkg_contents VALUES (?, 'features', 'x', '', '', 0, 0, 1, 1, 4326)")
          .run(Buffer.from([0xff, 0xfe, 0x00])),
    ),
    'large-definition.gpkg': geopackage(
      (db) =>
        void db.prepare('UPDATE gpkg_spatial_ref_sys SET organization = ?, definition = ?').run('x', `GEOGCS["${'x'.repeat(8_000_000)}"]`),
    ),
    'deep-definition.gpkg': geopackage(
      (db) => void db.prepare('UPDATE gpkg_spatial_ref_sys SET organization = ?, definition = ?').run('x', 'GEOGCS['.repeat(50_000)),
    ),
    'points-promised.gpkg': withGeometry('0102000000ffffffff'),
    'rings-promised.gpkg': withGeometry('0103000000ffffffff01000000ffffffff'),
    'collection-of-itself.gpkg': withGeometry('010700000001000000'.repeat(20_000)),
    'unknown-kind.gpkg': withGeometry('01ffffff7f00000000'),
    'empty-shape.gpkg': withGeometry(''),
    'not-a-number.gpkg': withGeometry('0101000000000000000000f87f000000000000f87f'),
    'tile-matrix.gpkg': geopackage((db) => {
      db.exec(
        "CREATE TABLE tiles (id INTEGER PRIMARY KEY, zoom_level INTEGER, tile_column INTEGER, tile_row INTEGER, tile_data BLOB); CREATE TABLE gpkg_tile_matrix (table_name TEXT, zoom_level INTEGER, matrix_width INTEGER, matrix_height INTEGER, tile_width INTEGER, tile_height INTEGER, pixel_x_size DOUBLE, pixel_y_size DOUBLE); CREATE TABLE gpkg_tile_matrix_set (table_name TEXT, srs_id INTEGER, min_x DOUBLE, min_y DOUBLE, max_x DOUBLE, max_y DOUBLE); INSERT INTO gpkg_tile_matrix_set VALUES ('tiles', 4326, 0, 0, 1, 1); INSERT INTO gpkg_tile_matrix VALUES ('tiles', 30, 9000000000000000000, 9000000000000000000, 2147483647, 2147483647, 0, -1); INSERT INTO gpkg_contents VALUES ('tiles', 'tiles', 'tiles', '', '', 0, 0, 1, 1, 4326); INSERT INTO tiles VALUES (1, 30, 0, 0, x'89504e47')",
      );
    }),
    'zeros.gpkg': Buffer.concat([Buffer.from('SQLite format 3\0'), Buffer.alloc(4_000_000)]),
    'wal.gpkg': (() => {
      const bytes = Buffer.from(geopackage(() => undefined));
      bytes[18] = bytes[19] = 2;
      return bytes;
    })(),
    'wal.gpkg-wal': Buffer.alloc(1_000_000, 0xff),
    'nested-coordinates.geojson': collection(feature(`{"type":"Polygon","coordinates":${deep(2000, '0,0')}}`)), // CWE-674
    'nested-arrays.geojson': `{"type":"FeatureCollection","features":${deep(100_000, '')}}`,
    'nested-properties.geojson': collection(feature('null', `{"a":${'{"a":'.repeat(400)}1${'}'.repeat(400)}}`)),
    'nested-collections.geojson': collection(feature(`${'{"type":"GeometryCollection","geometries":['.repeat(200)}${']}'.repeat(200)}`)),
    'never-closed.geojson': '{"type":"FeatureCollection","features":[',
    'infinite.geojson': collection(feature('{"type":"Point","coordinates":[1e400,-1e400]}')),
    'long-number.geojson': collection(feature(`{"type":"Point","coordinates":[${'9'.repeat(1_000_000)},1]}`)),
    'long-text.geojson': collection(feature('null', `{"a":"${'x'.repeat(20_000_000)}"}`)),
    'many-fields.geojson': collection(feature('null', `{${Array.from({ length: 60_000 }, (_, i) => `"f${i}":1`).join(',')}}`)),
    'other-fields-each.geojson': collection(...Array.from({ length: 800 }, (_, i) => feature('null', `{"f${i}":1}`))),
    'prototype.geojson': collection(feature('null', '{"__proto__":{"x":1},"constructor":1,"toString":2}')), // CWE-1321
    'nulls.geojson': collection(Array.from({ length: 300_000 }, () => 'null').join(',')),
    'utf-16.geojson': Buffer.from(`\ufeff${collection(feature('null'))}`, 'utf16le'),
    'surrogate.geojson': collection(feature('null', '{"a":"\\ud800"}')),
    'open-quote.csv': `a,b\n1,"${'x,\n'.repeat(33_000_000)}`, // 100 MB
    'wide.csv': `${Array.from({ length: 60_000 }, (_, i) => `c${i}`).join(',')}\n${'1,'.repeat(59_999)}1\n`,
    'widest.csv': `${','.repeat(2_000_000)}\n`,
    'one-line.csv': 'x'.repeat(30_000_000),
    'zeros.csv': Buffer.alloc(5_000_000),
    'quotes.csv': '"'.repeat(3_000_001),
    'formula.csv': 'a\n=cmd|"/C calc"!A0\n@SUM(1)\n', // CWE-1236
    'records-promised.dbf': dbf(
      4_294_967_295,
      65,
      10,
      Buffer.from(`A${'\0'.repeat(10)}C${'\0'.repeat(4)}\x09${'\0'.repeat(15)}\r`, 'latin1'),
    ),
    'zero-length.dbf': dbf(1000, 33, 0, Buffer.from('\r')),
    'header-beyond.dbf': dbf(1, 65535, 1),
    'fields-without-end.dbf': dbf(1, 65535, 65535, Buffer.alloc(65_503, 0x41)),
    'points-promised.shp': shp(
      record(
        22,
        le(44, (b) => (b.writeInt32LE(5, 0), b.writeInt32LE(2_000_000_000, 36), b.writeInt32LE(2_000_000_000, 40))),
      ),
    ),
    'points-promised.shx': open('polygon.shx'),
    'points-promised.dbf': open('polygon.dbf'),
    'length-lies.shp': shp(record(2_000_000_000, Buffer.alloc(100))),
    'length-lies.shx': open('polygon.shx'),
    'length-lies.dbf': open('polygon.dbf'),
    'no-length.shp': shp(Buffer.concat(Array.from({ length: 100_000 }, () => record(0, Buffer.alloc(0))))),
    'no-length.shx': open('polygon.shx'),
    'no-length.dbf': open('polygon.dbf'),
    'huge.tif': tiff(...big),
    'rows-promised.tif': tiff(...big.map((t) => (t[0] === 273 || t[0] === 279 ? ([t[0], 4, 4_000_000_000, 8] as const) : t))),
    'circle.tif': Buffer.concat([Buffer.from('II*\0\x08\0\0\0\0\0', 'latin1'), le(4, (b) => b.writeUInt32LE(8, 0))]),
    'tags-without-end.tif': tiff(...Array.from({ length: 60_000 }, (_, i) => [i, 4, 1, 8] as const)),
    'no-rows.tif': tiff(...big.map((t) => (t[0] === 278 ? ([278, 4, 1, 0] as const) : t[0] <= 257 ? ([t[0], 4, 1, 10] as const) : t))),
    'huge.png': Buffer.concat([
      Buffer.from('89504e470d0a1a0a0000000d49484452', 'hex'),
      le(17, (b) => (b.writeUInt32BE(0x7fffffff, 0), b.writeUInt32BE(0x7fffffff, 4), b.writeUInt8(8, 8))),
    ]), // CWE-789
    'huge.pgw': '1\n0\n0\n-1\n0\n0\n',
    'broken.jpg': Buffer.from('ffd8ffe000104a46494600', 'hex'),
    'broken.jgw': 'nan\ninf\n1e400\n-1\n0\n0\n',
    'huge.asc': 'ncols 2000000000\nnrows 2000000000\nxllcorner 0\nyllcorner 0\ncellsize 1\n1 2 3\n',
    'no-size.asc': 'ncols 0\nnrows -1\nxllcorner nan\nyllcorner 0\ncellsize 0\n',
    'laughs.kml': `<?xml version="1.0"?>${LAUGHS}<kml><Document><name>&j;</name></Document></kml>`,
    'outside.kml': `<?xml version="1.0"?><!DOCTYPE kml [<!ENTITY e SYSTEM "file:///etc/passwd">]><kml><Document><name>&e;</name></Document></kml>`, // CWE-611
    'deep.kml': kml('<Folder>'.repeat(50_000)),
    'long.kml': kml(`<Placemark><Point><coordinates>${'1,2 '.repeat(300_000)}</coordinates></Point></Placemark>`),
    'attributes.gpx': `<gpx ${Array.from({ length: 100_000 }, (_, i) => `a${i}="1"`).join(' ')}/>`,
    'laughs.gpx': `<?xml version="1.0"?>${LAUGHS}<gpx><wpt lat="1" lon="2"><name>&j;</name></wpt></gpx>`,
    'flood.kmz': writeZip({ 'doc.kml': kml(' '.repeat(300_000_000)) }), // CWE-409
    'rows.xlsx': xlsx(`<worksheet><sheetData>${'<row><c r="XFD1048576"><v>1</v></c></row>'.repeat(2000)}</sheetData></worksheet>`),
    'strings.xlsx': xlsx(
      '<worksheet><sheetData><row><c r="A1" t="s"><v>999999999</v></c></row></sheetData></worksheet>',
      Buffer.alloc(300_000_000, 0x20),
    ),
    'laughs.xlsx': xlsx(`<?xml version="1.0"?>${LAUGHS}<worksheet><sheetData><row><c r="A1"><v>&j;</v></c></row></sheetData></worksheet>`),
    'returns.csv': '\r'.repeat(3_000_000),
    'no-names.csv': `${'\n'.repeat(1_000_000)}1,2\n`,
    'header.fgb': Buffer.concat([Buffer.from('6667620366676200', 'hex'), le(4, (b) => b.writeUInt32LE(0xfffffff0, 0)), Buffer.alloc(100)]),
    'nodes.fgb': Buffer.concat([Buffer.from('6667620366676200', 'hex'), le(4, (b) => b.writeUInt32LE(40, 0)), Buffer.alloc(40, 0xff)]),
    'deep.prj': 'PROJCS['.repeat(100_000),
    'deep.shp': open('point.shp'),
    'deep.shx': open('point.shx'),
    'deep.dbf': open('point.dbf'),
    'laughs.owc.json': `{"type":"FeatureCollection","id":"x","features":${deep(2000, '')}}`,
    'plain.owc.json': '[]',
    'laughs.sld': `<?xml version="1.0"?>${LAUGHS}<StyledLayerDescriptor>&j;</StyledLayerDescriptor>`,
    'bytes.gz.csv': gzipSync(Buffer.alloc(1000)),
  };
}

/** Makes GeoPackages with two tables, changed as wanted, one after the other at a path, and gives their bytes. */
export const geopackagesAt =
  (path: string) =>
  (make: (db: Database.Database) => void): Buffer => {
    rmSync(path, { force: true });
    const db = new Database(path);
    db.exec(readFileSync('engine/test/two-tables.sql', 'utf8'));
    db.transaction(() => make(db))();
    db.close();
    return readFileSync(path);
  };
