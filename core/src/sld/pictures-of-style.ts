import { unescapeXml } from '../xml/xml-text.js';

/** Where a style names pictures (`OnlineResource`) and fonts: these are references, too. */
export interface StyleMention {
  readonly href: string;
  /** Offsets in the text of the style, of what stands between the quotes. */
  readonly start: number;
  readonly end: number;
}

/** Pictures that a style names, with where each stands, so that an address can be rewritten and nothing else. */
export function picturesOfStyle(text: string): StyleMention[] {
  const found: StyleMention[] = [];
  for (const m of text.matchAll(/<(?:\w+:)?OnlineResource\b[^>]*?\bhref\s*=\s*(["'])([^"']*)\1/g)) {
    const end = m.index + m[0].length - 1;
    found.push({ href: unescapeXml(m[2]!), start: end - m[2]!.length, end });
  }
  return found;
}

/** Fonts that a style asks for; where one is missing the plain one is drawn. */
export function fontsOfStyle(text: string): string[] {
  const families = text.matchAll(/<(?:\w+:)?(?:CssParameter|SvgParameter)\s+name\s*=\s*["']font-family["']\s*>\s*([^<]+?)\s*</g);
  return [...new Set([...families].map((m) => unescapeXml(m[1]!)))];
}
