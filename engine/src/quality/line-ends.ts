import Flatbush from 'flatbush';
import { checked, kindOfWkb, manyOf, readWkb, type CheckExample, type QualityCheck, type WkbVisitor } from '@rootmap/core';

/** Pieces of lines that are held; of more the ends are not looked at. */
const MOST_PIECES = 1_000_000;
/** An end that misses another line by less than this share of the median piece was meant to meet it (common practice, no source). */
const MISSED = 0.1;
const MOST_EXAMPLES = 20;

interface End {
  readonly x: number;
  readonly y: number;
  /** Its own first or last piece, which it always touches. */
  readonly piece: number;
  readonly record: number;
}

/** Where lines end: met by another line, free, or missing one by a little. In the units of the CRS. */
export class LineEnds {
  /** ax, ay, bx, by of each piece. */
  private readonly pieces: number[] = [];
  private readonly ends: End[] = [];
  private lines = 0;

  /** @param record position of the record from 1 */
  add(wkb: Uint8Array, record: number): void {
    if (!/LineString/.test(kindOfWkb(wkb) ?? '') || this.pieces.length > MOST_PIECES * 4) return;
    let [lastX, lastY, first, isFirst] = [0, 0, -1, true];
    const end = (): void => {
      if (first >= 0) this.endAt(first, record);
      first = -1;
    };
    const visitor: WkbVisitor = {
      run: () => {
        end();
        isFirst = true;
      },
      vertex: (x, y) => {
        if (!isFirst && (x !== lastX || y !== lastY)) {
          if (first < 0) first = this.pieces.length / 4;
          this.pieces.push(lastX, lastY, x, y);
        }
        [lastX, lastY, isFirst] = [x, y, false];
      },
    };
    readWkb(wkb, visitor);
    end();
  }

  private endAt(first: number, record: number): void {
    this.lines++;
    const last = this.pieces.length / 4 - 1;
    const at = (i: number): number => this.pieces[i]!;
    this.ends.push({ x: at(first * 4), y: at(first * 4 + 1), piece: first, record });
    this.ends.push({ x: at(last * 4 + 2), y: at(last * 4 + 3), piece: last, record });
  }

  checks(): QualityCheck[] {
    if (this.lines === 0) return [];
    if (this.pieces.length > MOST_PIECES * 4)
      return [
        checked('line-ends', 'pass', [0, 0], `The ends of its lines were not looked at: it has more than ${MOST_PIECES} pieces of lines.`),
      ];
    const tolerance = this.medianPiece() * MISSED;
    const index = this.indexed();
    let [free, missed] = [0, 0];
    const examples: CheckExample[] = [];
    for (const end of this.ends) {
      const distance = this.nearest(index, end, tolerance);
      if (distance === 0) continue;
      if (distance > tolerance) {
        free++;
        continue;
      }
      missed++;
      if (examples.length < MOST_EXAMPLES)
        examples.push({ record: end.record, at: [end.x, end.y], what: `misses another line by ${Number(distance.toPrecision(3))}` });
    }
    const freeWords = `${manyOf(free, 'end')} of ${manyOf(this.lines, 'line')} ${free === 1 ? 'is' : 'are'} free`;
    const reach = Number(tolerance.toPrecision(3));
    const detail =
      missed === 0
        ? `No end misses another line by less than ${reach} (a tenth of the median piece); ${freeWords}.`
        : `${manyOf(missed, 'end')} ${missed === 1 ? 'misses' : 'miss'} another line by less than ${reach} (a tenth of the median piece); ${freeWords}.`;
    return [checked('line-ends', missed === 0 ? 'pass' : 'note', [missed, this.ends.length], detail, examples)];
  }

  private medianPiece(): number {
    const { pieces } = this;
    const lengths = Float64Array.from({ length: pieces.length / 4 }, (_, i) =>
      Math.hypot(pieces[i * 4 + 2]! - pieces[i * 4]!, pieces[i * 4 + 3]! - pieces[i * 4 + 1]!),
    ).sort();
    return lengths[lengths.length >> 1]!;
  }

  private indexed(): Flatbush {
    const { pieces } = this;
    const index = new Flatbush(pieces.length / 4);
    for (let i = 0; i < pieces.length; i += 4) {
      const [ax, ay, bx, by] = [pieces[i]!, pieces[i + 1]!, pieces[i + 2]!, pieces[i + 3]!];
      index.add(Math.min(ax, bx), Math.min(ay, by), Math.max(ax, bx), Math.max(ay, by));
    }
    index.finish();
    return index;
  }

  /** Distance from an end to the nearest piece that is not its own; Infinity: there is none within the tolerance. */
  private nearest(index: Flatbush, { x, y, piece }: End, tolerance: number): number {
    let least = Infinity;
    for (const i of index.search(x - tolerance, y - tolerance, x + tolerance, y + tolerance)) {
      if (i === piece) continue;
      const at = i * 4;
      const distance = toPiece(x, y, this.pieces[at]!, this.pieces[at + 1]!, this.pieces[at + 2]!, this.pieces[at + 3]!);
      if (distance < least) least = distance;
    }
    return least;
  }
}

function toPiece(x: number, y: number, ax: number, ay: number, bx: number, by: number): number {
  const [dx, dy] = [bx - ax, by - ay];
  const share = Math.max(0, Math.min(1, ((x - ax) * dx + (y - ay) * dy) / (dx * dx + dy * dy)));
  return Math.hypot(x - ax - share * dx, y - ay - share * dy);
}
