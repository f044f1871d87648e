import { DOS_CODE_PAGES } from './dos-code-pages.g.js';

/** A way of turning the bytes of a DBF into text. `name` is for people. */
export interface TextEncoding {
  readonly name: string;
  decode(bytes: Uint8Array): string;
}

/**
 * Language driver ids (DBF header byte 29) to code pages, as dBASE and its followers write them.
 * Source: the LDID table in common use (from memory; 3, 27 and 87 confirmed on real files).
 */
const LDID: Readonly<Record<number, string>> = {
  0x01: '437',
  0x02: '850',
  0x03: '1252',
  0x04: 'macintosh',
  0x08: '865',
  0x09: '437',
  0x0a: '850',
  0x0b: '437',
  0x0d: '437',
  0x0e: '850',
  0x0f: '437',
  0x10: '850',
  0x11: '437',
  0x12: '850',
  0x13: '932',
  0x14: '850',
  0x15: '437',
  0x16: '850',
  0x17: '865',
  0x18: '437',
  0x19: '437',
  0x1a: '850',
  0x1b: '437',
  0x1c: '863',
  0x1d: '850',
  0x1f: '852',
  0x22: '852',
  0x23: '852',
  0x24: '860',
  0x25: '850',
  0x26: '866',
  0x37: '850',
  0x40: '852',
  0x4d: '936',
  0x4e: '949',
  0x4f: '950',
  0x50: '874',
  0x57: '8859-1',
  0x58: '1252',
  0x59: '1252',
  0x64: '852',
  0x65: '866',
  0x66: '865',
  0x67: '861',
  0x6a: '737',
  0x6b: '857',
  0x6c: '863',
  0x78: '950',
  0x79: '949',
  0x7a: '936',
  0x7b: '932',
  0x7c: '874',
  0x86: '737',
  0x87: '852',
  0x88: '857',
  0xc8: '1250',
  0xc9: '1251',
  0xca: '1254',
  0xcb: '1253',
  0xcc: '1257',
};

const MULTI_BYTE: Readonly<Record<string, string>> = { '932': 'shift_jis', '936': 'gbk', '949': 'euc-kr', '950': 'big5' };

const platform = (label: string, name: string): TextEncoding | null => {
  try {
    const decoder = new TextDecoder(label);
    // Node 20 decodes windows-1252, and all labels that stand for it, as ISO 8859-1, where a text comes in one piece.
    if ((decoder as { readonly encoding?: string }).encoding === 'windows-1252') return ownPage('1252', name);
    return { name, decode: (bytes) => decoder.decode(bytes) };
  } catch {
    return null; // a label that the platform does not know: the caller goes on to the next hint
  }
};

function ownPage(page: string, name = `CP${page}`): TextEncoding | null {
  const upper = DOS_CODE_PAGES[Number(page)];
  if (!upper) return null;
  return {
    name,
    decode: (bytes) => {
      let out = '';
      for (const b of bytes) out += b < 0x80 ? String.fromCharCode(b) : upper[b - 0x80]!;
      return out;
    },
  };
}

function byCodePage(page: string): TextEncoding | null {
  if (page === '1252') return ownPage(page, 'Windows-1252');
  if (/^125\d$|^874$/.test(page)) return platform(`windows-${page}`, `Windows-${page}`);
  if (MULTI_BYTE[page]) return platform(MULTI_BYTE[page], `CP${page}`);
  const iso = /^(?:iso[- ]?)?8859[-_]?(\d+)$/i.exec(page);
  if (iso) return platform(`iso-8859-${iso[1]}`, `ISO-8859-${iso[1]}`);
  if (page === '65001') return utf8;
  if (page === 'macintosh') return platform('macintosh', 'Mac Roman');
  return ownPage(page);
}

const utf8: TextEncoding = {
  name: 'UTF-8',
  decode: (bytes) => new TextDecoder('utf-8').decode(bytes),
};

/** What a `.cpg` names: `UTF-8`, `1252`, `CP852`, `ANSI 1250`, `ISO-8859-2`, `88592`. Null when it is not known. */
export function encodingOfCpg(text: string): TextEncoding | null {
  const label = text
    .replace(/^\uFEFF/, '')
    .trim()
    .toLowerCase()
    .slice(0, 40);
  if (/^utf-?8$/.test(label)) return utf8;
  const iso = /^8859(\d{1,2})$/.exec(label);
  if (iso) return byCodePage(`8859-${iso[1]}`);
  const digits = /^(?:cp|ansi|oem|windows|ibm|ldid\/)?[-_ ]?(\d{3,5})$/.exec(label);
  return (digits && byCodePage(digits[1]!)) ?? byCodePage(label) ?? (label ? platform(label, label) : null);
}

/** The encoding a DBF's own header names; null when it names none. */
export const encodingOfLdid = (ldid: number): TextEncoding | null => (LDID[ldid] ? byCodePage(LDID[ldid]) : null);

/** An encoding that statistics have found, by its label in the WHATWG Encoding Standard. */
export const encodingLabelled = (label: string, name: string): TextEncoding => platform(label, name) ?? guessing;

const latin = byCodePage('1252')!;

/** With no hint at all: UTF-8 where the bytes are that, else Windows-1252, for which the WHATWG Encoding Standard takes Latin-1. */
export const guessing: TextEncoding = {
  name: 'not stated',
  decode: (bytes) => {
    try {
      return new TextDecoder('utf-8', { fatal: true }).decode(bytes);
    } catch {
      return latin.decode(bytes);
    }
  },
};
