import { describe, expect, test } from '@jest/globals';
import { belowService, kindOfAddress, lastNameOf, layerNamesOf, serviceAddress, urlOf } from './service-address.js';
import { crsNamed, degreesOf } from './service-tree.js';
import { isTilePicture, pictureType, tileAddress } from './tiles.js';

describe('two layers of one service have the same address', () => {
  test.each([
    ['https://x.example/wms?SERVICE=WMS&LAYERS=a', 'https://x.example/wms'],
    ['https://x.example/wms?service=wms&version=1.1.1&request=GetMap&layers=b&bbox=1,2,3,4', 'https://x.example/wms'],
    ['https://x.example/cgi?map=/srv/bay.map&LAYERS=a', 'https://x.example/cgi?map=%2Fsrv%2Fbay.map'],
    ['https://x.example/api/collections/beds/items?limit=10', 'https://x.example/api'],
    ['https://x.example/api/collections/beds/items', 'https://x.example/api'],
    ['https://x.example/api/', 'https://x.example/api'],
    ['https://x.example/t/{z}/{x}/{y}.png', 'https://x.example/t'],
    ['https://x.example/t/{z}/{x}/{y}.png?size=2', 'https://x.example/t'],
    ['https://me:pw@x.example/wms#top', 'https://x.example/wms'],
    ['HTTPS://X.Example:443/wms', 'https://x.example/wms'],
    ['no address', 'no address'],
  ])('%s', (href, service) => expect(serviceAddress(href)).toBe(service));
  test('it is its own service', () => {
    for (const href of ['https://x.example/cgi?map=a%20b', 'https://x.example/t/{z}/{x}/{y}.png', 'https://x.example/']) {
      expect(serviceAddress(serviceAddress(href))).toBe(serviceAddress(href));
    }
  });
});

test('what stands below a service keeps what its address asks for', () => {
  expect(belowService('https://x.example/api?lang=en', 'collections', 'a b', 'items')).toBe(
    'https://x.example/api/collections/a%20b/items?lang=en',
  );
  expect(belowService('https://x.example/', 'collections')).toBe('https://x.example/collections');
});

test('the last name of an address', () => {
  expect(['https://x/a/b%20c.zip?x=1', 'https://x/', 'https://x/a/', 'https://x/%ff', 'no'].map(lastNameOf)).toEqual([
    'b c.zip',
    '',
    'a',
    '%ff',
    '',
  ]);
});

test('what a layer draws, and how', () => {
  expect(layerNamesOf('https://x.example/wms?layers=a,b%20c')).toEqual(['a', 'b c']);
  expect(layerNamesOf('https://x.example/api/collections/beds%202/items')).toEqual(['beds 2']);
  expect(layerNamesOf('https://x.example/api/collections/%ff/items')).toEqual(['%ff']);
  expect(layerNamesOf('https://x.example/t/{z}/{x}/{y}.png')).toEqual([]);
  expect(kindOfAddress('https://x.example/wms?service=WMS')).toBe('wms');
  expect(kindOfAddress('https://x.example/t/{z}/{x}/{y}.png')).toBe('tiles');
  expect(kindOfAddress('https://x.example/api/collections/a/items')).toBe('features');
  expect(kindOfAddress('https://x.example/page')).toBeNull();
});

test('only web addresses of bounded length are addresses', () => {
  for (const text of ['file:///etc/passwd', 'ftp://x', 'javascript:1', 'x', '', `https://x/${'a'.repeat(3000)}`])
    expect(urlOf(text)).toBeNull();
  expect(urlOf('http://[::1]:80/')).not.toBeNull();
});

// Forms of OGC 09-048r5 (URN), OGC 17-069r4, 6.2 (URI), and the short ones of WMS.
test.each([
  ['http://www.opengis.net/def/crs/OGC/1.3/CRS84', 'CRS:84'],
  ['http://www.opengis.net/def/crs/EPSG/0/25832', 'EPSG:25832'],
  ['urn:ogc:def:crs:EPSG::4326', 'EPSG:4326'],
  ['urn:ogc:def:crs:OGC:1.3:CRS84', 'CRS:84'],
  ['epsg:3857', 'EPSG:3857'],
  ['CRS:84', 'CRS:84'],
  ['a local one', 'a local one'],
])('a CRS written as %s', (text, named) => expect(crsNamed(text)).toBe(named));

test('four numbers that can be degrees', () => {
  expect(degreesOf([-39.2, 43.9, -39.1, 44])).toEqual([-39.2, 43.9, -39.1, 44]);
  expect(degreesOf([-39.2, 43.9, 0, -39.1, 44, 10])).toEqual([-39.2, 43.9, -39.1, 44]); // with heights, RFC 7946, 5
  expect(degreesOf(['-10', '1', '10', '2'])).toEqual([-10, 1, 10, 2]);
  for (const bad of [
    [1, 2, 3],
    [0, 80, 1, 95],
    [0, 5, 1, 4],
    [NaN, 0, 1, 1],
    [null, 0, 1, 1],
    ['', 0, 1, 1],
  ])
    expect(degreesOf(bad)).toBeNull();
});

test('tiles: from north, from south, with host letters; pictures by their first bytes', () => {
  const at = { z: 3, x: 5, y: 2 };
  expect(tileAddress('https://{s}.x/{z}/{x}/{y}.png', at)).toBe('https://a.x/3/5/2.png');
  expect(tileAddress('https://{b-d}.x/%7Bz%7D/%7Bx%7D/%7B-y%7D.png', at)).toBe('https://b.x/3/5/5.png');
  expect(pictureType(Buffer.from('89504e470d0a1a0a', 'hex'))).toBe('image/png');
  expect(pictureType(Buffer.from('ffd8ffe0', 'hex'))).toBe('image/jpeg');
  expect(pictureType(Buffer.from('RIFF....WEBP'))).toBe('image/webp');
  expect(pictureType(Buffer.from('GIF89a'))).toBe('image/gif');
  for (const no of ['<html>', '', 'RIFF....WAVE', '%PDF']) expect(isTilePicture(Buffer.from(no))).toBe(false);
});
