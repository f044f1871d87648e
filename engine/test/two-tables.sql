-- A small GeoPackage (OGC 12-128r17) by hand: one table of points, one of attributes.
CREATE TABLE gpkg_spatial_ref_sys (srs_name TEXT, srs_id INTEGER PRIMARY KEY, organization TEXT, organization_coordsys_id INTEGER, definition TEXT, description TEXT);
CREATE TABLE gpkg_contents (table_name TEXT PRIMARY KEY, data_type TEXT, identifier TEXT, description TEXT, last_change DATETIME, min_x DOUBLE, min_y DOUBLE, max_x DOUBLE, max_y DOUBLE, srs_id INTEGER);
CREATE TABLE gpkg_geometry_columns (table_name TEXT, column_name TEXT, geometry_type_name TEXT, srs_id INTEGER, z TINYINT, m TINYINT, PRIMARY KEY (table_name, column_name));
CREATE TABLE a (fid INTEGER PRIMARY KEY, geom BLOB, n TEXT);
CREATE TABLE b (fid INTEGER PRIMARY KEY, v REAL);
INSERT INTO gpkg_spatial_ref_sys VALUES ('WGS 84', 4326, 'EPSG', 4326, 'undefined', '');
INSERT INTO gpkg_contents VALUES ('a', 'features', 'a', '', '2026-01-01T00:00:00Z', 0, 0, 1, 1, 4326), ('b', 'attributes', 'b', '', '2026-01-01T00:00:00Z', NULL, NULL, NULL, NULL, NULL);
INSERT INTO gpkg_geometry_columns VALUES ('a', 'geom', 'POINT', 4326, 0, 0);
INSERT INTO b VALUES (1, 2.5);
INSERT INTO a VALUES (1, x'47500001e61000000101000000000000000000f03f0000000000000040', 'one');
