import { expect, test } from '@jest/globals';
import { readMetadata } from './read-metadata';

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);

// Element names and their nesting: ISO/TS 19139:2007, gmd.xsd; content invented.
test('ISO 19139', () => {
  const xml = `<?xml version="1.0"?><gmd:MD_Metadata xmlns:gmd="http://www.isotc211.org/2005/gmd" xmlns:gco="http://www.isotc211.org/2005/gco">
  <gmd:contact><gmd:CI_ResponsibleParty><gmd:organisationName><gco:CharacterString>Keeper</gco:CharacterString></gmd:organisationName></gmd:CI_ResponsibleParty></gmd:contact>
  <gmd:referenceSystemInfo><gmd:MD_ReferenceSystem><gmd:referenceSystemIdentifier><gmd:RS_Identifier><gmd:code><gco:CharacterString>32624</gco:CharacterString></gmd:code><gmd:codeSpace><gco:CharacterString>EPSG</gco:CharacterString></gmd:codeSpace></gmd:RS_Identifier></gmd:referenceSystemIdentifier></gmd:MD_ReferenceSystem></gmd:referenceSystemInfo>
  <gmd:identificationInfo><gmd:MD_DataIdentification><gmd:citation><gmd:CI_Citation><gmd:title><gco:CharacterString>Sand banks</gco:CharacterString></gmd:title></gmd:CI_Citation></gmd:citation>
  <gmd:abstract><gco:CharacterString>Banks seen at low water.</gco:CharacterString></gmd:abstract>
  <gmd:pointOfContact><gmd:CI_ResponsibleParty><gmd:organisationName><gco:CharacterString>Harbour Office</gco:CharacterString></gmd:organisationName></gmd:CI_ResponsibleParty></gmd:pointOfContact>
  <gmd:spatialResolution><gmd:MD_Resolution><gmd:equivalentScale><gmd:MD_RepresentativeFraction><gmd:denominator><gco:Integer>10000</gco:Integer></gmd:denominator></gmd:MD_RepresentativeFraction></gmd:equivalentScale></gmd:MD_Resolution></gmd:spatialResolution>
  <gmd:resourceConstraints><gmd:MD_LegalConstraints><gmd:useLimitation><gco:CharacterString>Not for navigation.</gco:CharacterString></gmd:useLimitation><gmd:otherConstraints><gco:CharacterString>Creative Commons Attribution 4.0</gco:CharacterString></gmd:otherConstraints></gmd:MD_LegalConstraints></gmd:resourceConstraints>
  </gmd:MD_DataIdentification></gmd:identificationInfo>
  <gmd:distributionInfo><gmd:MD_Distribution><gmd:transferOptions><gmd:MD_DigitalTransferOptions><gmd:onLine><gmd:CI_OnlineResource><gmd:linkage><gmd:URL>https://data.example/banks.zip</gmd:URL></gmd:linkage></gmd:CI_OnlineResource></gmd:onLine></gmd:MD_DigitalTransferOptions></gmd:transferOptions></gmd:MD_Distribution></gmd:distributionInfo>
  </gmd:MD_Metadata>`;
  expect(readMetadata(bytes(xml))).toEqual({
    title: 'Sand banks',
    publisher: 'Harbour Office',
    licence: 'CC-BY-4.0',
    statedCrs: 'EPSG:32624',
    statedScale: '1:10000',
    disclaimer: 'Not for navigation.',
    address: 'https://data.example/banks.zip',
    notes: 'Banks seen at low water.',
  });
});

// Short names of elements: FGDC-STD-001-1998, Content Standard for Digital Geospatial Metadata; content invented.
test('FGDC', () => {
  const xml = `<metadata><idinfo><citation><citeinfo><origin>Survey</origin><title>Soundings</title><pubinfo><publish>Chart Room</publish></pubinfo><onlink>https://x.example/s</onlink></citeinfo></citation><descript><abstract>Depths.</abstract></descript><useconst>Public domain</useconst></idinfo><spref><horizsys><planar><gridsys><gridsysn>Universal Transverse Mercator</gridsysn></gridsys></planar><geodetic><horizdn>North American Datum of 1983</horizdn></geodetic></horizsys></spref><dataqual><lineage><srcinfo><srcscale>24000</srcscale></srcinfo></lineage></dataqual><distinfo><distliab>No warranty.</distliab></distinfo></metadata>`;
  expect(readMetadata(bytes(xml))).toMatchObject({
    title: 'Soundings',
    publisher: 'Chart Room',
    statedCrs: 'Universal Transverse Mercator, North American Datum of 1983',
    statedScale: '1:24000',
    disclaimer: 'No warranty.',
    address: 'https://x.example/s',
  });
});

test('other XML, and what is cut off, is none', () => {
  expect(readMetadata(bytes('<metadata><x>1</x></metadata>'))).toBeNull();
  expect(readMetadata(bytes('<gmd:MD_Metadata><a>'))).toBeNull();
  expect(readMetadata(bytes('<sld/>'))).toBeNull();
});
