import { memorySource } from '../bytes/byte-source.js';
import { readXml } from '../xml/read-xml.js';
import { licenceWithin } from './licences.js';
import type { Origin } from './origin.js';

/** What metadata that came with data tells of its origin; only what is told is there. */
export type ToldOrigin = Partial<
  Pick<Origin, 'title' | 'publisher' | 'licence' | 'statedCrs' | 'statedScale' | 'disclaimer' | 'address' | 'page' | 'notes'>
>;

/**
 * Title, publisher, licence, CRS, scale, address and limits of use from metadata as XML: ISO 19139 (root `MD_Metadata`) or the FGDC
 * standard (FGDC-STD-001-1998, root `metadata`). Null: it is neither, or damaged.
 */
export function readMetadata(xml: Uint8Array): ToldOrigin | null {
  const texts: { readonly path: string; readonly text: string }[] = [];
  const path: string[] = [];
  let words = '';
  const fault = readXml(memorySource(xml), {
    open: (name, attributes) => {
      path.push(name);
      words = '';
      const code = attributes['codeListValue'];
      if (code) texts.push({ path: path.join('/'), text: code });
    },
    text: (more) => (words += more),
    close: () => {
      if (words.trim() !== '') texts.push({ path: path.join('/'), text: words.trim().replace(/\s+/g, ' ') });
      words = '';
      path.pop();
    },
  });
  if (fault !== null) return null;
  const root = texts[0]?.path.split('/')[0];
  const find = (pattern: RegExp): string => texts.find((t) => pattern.test(t.path))?.text ?? '';
  if (root === 'MD_Metadata' || root === 'MI_Metadata') return told(iso(find, texts));
  return root === 'metadata' && texts.some((t) => t.path.startsWith('metadata/idinfo/')) ? told(fgdc(find)) : null;
}

type Find = (pattern: RegExp) => string;

/** ISO 19139: element names stand between `gmd:` properties, whose texts are `gco:CharacterString` or `gmx:Anchor`. */
function iso(find: Find, texts: readonly { readonly path: string; readonly text: string }[]): Required<ToldOrigin> {
  const system = texts.filter((t) => /referenceSystemIdentifier\/RS_Identifier\/code\//.test(t.path))[0]?.text ?? '';
  const space = find(/referenceSystemIdentifier\/RS_Identifier\/codeSpace\//);
  return {
    title: find(/identificationInfo\/.*citation\/CI_Citation\/title\//),
    publisher: find(/identificationInfo\/.*pointOfContact\/.*organisationName\//) || find(/^M[DI]_Metadata\/contact\/.*organisationName\//),
    licence: licenceIn(texts.filter((t) => /resourceConstraints\//.test(t.path)).map((t) => t.text)),
    statedCrs: /^\d+$/.test(system) ? `${space || 'EPSG'}:${system}` : system,
    statedScale: scaleOf(find(/identificationInfo\/.*spatialResolution\/MD_Resolution\/equivalentScale\/.*denominator\//)),
    disclaimer: find(/resourceConstraints\/.*useLimitation\//),
    address: find(/transferOptions\/.*linkage\/URL$/),
    page: '',
    notes: find(/identificationInfo\/.*\/abstract\//),
  };
}

function fgdc(find: Find): Required<ToldOrigin> {
  return {
    title: find(/idinfo\/citation\/citeinfo\/title$/),
    publisher: find(/idinfo\/citation\/citeinfo\/pubinfo\/publish$/) || find(/idinfo\/citation\/citeinfo\/origin$/),
    licence: licenceIn([find(/idinfo\/useconst$/), find(/idinfo\/accconst$/)]),
    statedCrs: [find(/horizsys\/planar\/gridsys\/gridsysn$/), find(/horizsys\/geodetic\/horizdn$/)].filter(Boolean).join(', '),
    statedScale: scaleOf(find(/dataqual\/lineage\/srcinfo\/srcscale$/)),
    disclaimer: find(/distinfo\/distliab$/),
    address: find(/idinfo\/citation\/citeinfo\/onlink$/),
    page: '',
    notes: find(/idinfo\/descript\/abstract$/),
  };
}

/** The denominator of a scale, as both standards tell it. */
const scaleOf = (denominator: string): string => (/^[1-9]\d*$/.test(denominator) ? `1:${denominator}` : '');

/** A known licence that one of the texts names; '' where none does. */
const licenceIn = (texts: readonly string[]): string => texts.map((text) => licenceWithin(text)?.name).find(Boolean) ?? '';

const told = (origin: Required<ToldOrigin>): ToldOrigin => Object.fromEntries(Object.entries(origin).filter(([, value]) => value !== ''));
