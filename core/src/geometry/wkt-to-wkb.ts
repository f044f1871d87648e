import { WKB, WkbWriter } from './wkb-writer.js';

const CODES: Readonly<Record<string, number>> = Object.fromEntries(Object.entries(WKB).map(([name, code]) => [name.toUpperCase(), code]));
const writer = new WkbWriter();

/**
 * Well-known text (OGC 06-103r4, clause 7; an `SRID=…;` in front is passed over) as well-known binary; null where it is
 * none, is empty, or has a kind of shape that is not read.
 */
export function wktToWkb(text: string): Uint8Array | null {
  const reader = new WktReader(text.replace(/^\s*SRID=\d+;/i, ''));
  const isRead = reader.geometry(0) && reader.isAtEnd();
  const bytes = writer.finish();
  return isRead ? bytes : null;
}

class WktReader {
  private at = 0;
  constructor(private readonly text: string) {}

  private token(pattern: RegExp): string | null {
    const sticky = new RegExp(`\\s*(${pattern.source})`, 'iy');
    sticky.lastIndex = this.at;
    const match = sticky.exec(this.text);
    if (!match) return null;
    this.at = sticky.lastIndex;
    return match[1]!;
  }

  isAtEnd(): boolean {
    return this.text.slice(this.at).trim() === '';
  }

  geometry(depth: number): boolean {
    const name = this.token(/[a-z]+?(?=\s*(?:zm?|m)?\s*(?:\(|empty))/)?.toUpperCase();
    const code = name === undefined ? undefined : CODES[name];
    if (code === undefined || depth > 8) return false;
    const dimensions = (this.token(/zm|z|m/) ?? '').toUpperCase();
    return this.body(code, dimensions, depth);
  }

  private body(code: number, dimensions: string, depth: number): boolean {
    const size = dimensions === 'XY' ? 2 : dimensions ? 2 + dimensions.length : this.sizeAhead();
    const [hasZ, hasM] = dimensions ? [dimensions.startsWith('Z'), dimensions.endsWith('M')] : [size > 2, size > 3];
    writer.type(code, hasZ, hasM);
    if (code === WKB.Point) return this.token(/\(/) !== null && this.position(size) && this.token(/\)/) !== null;
    if (code === WKB.GeometryCollection) return this.list(() => this.geometry(depth + 1));
    if (code === WKB.LineString) return this.list(() => this.position(size));
    if (code === WKB.Polygon) return this.list(() => this.list(() => this.position(size)));
    if (code === WKB.MultiPoint)
      return this.list(() => {
        writer.type(WKB.Point, hasZ, hasM);
        const isWrapped = this.token(/\(/) !== null; // both ways of writing it are met
        return this.position(size) && (!isWrapped || this.token(/\)/) !== null);
      });
    const dims = `${hasZ ? 'Z' : ''}${hasM ? 'M' : ''}`;
    return this.list(() => this.body(code - 3, dims || 'XY', depth + 1)); // each kind of one part stands three before that of many
  }

  /** Ordinates of the first position ahead. */
  private sizeAhead(): number {
    const first = /[-+\d.][^,()]*/.exec(this.text.slice(this.at));
    return Math.min(4, Math.max(2, first?.[0].trim().split(/\s+/).length ?? 2));
  }

  private list(item: () => boolean): boolean {
    if (this.token(/\(/) === null) return false;
    const count = writer.reserveCount();
    let n = 0;
    do {
      if (!item()) return false;
      n++;
    } while (this.token(/,/) !== null);
    writer.setCount(count, n);
    return this.token(/\)/) !== null;
  }

  private position(size: number): boolean {
    const ordinates: number[] = [];
    for (let i = 0; i < size; i++) {
      const number = this.token(/[-+]?(?:\d+\.?\d*|\.\d+)(?:e[-+]?\d+)?/);
      if (number === null) return false;
      ordinates.push(Number(number));
    }
    writer.position(ordinates[0]!, ordinates[1]!, ordinates[2], ordinates[3]);
    return true;
  }
}
