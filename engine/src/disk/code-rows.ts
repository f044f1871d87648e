const LINE = 0x0a;

/**
 * Rows of a table by their codes, without reading the others: reading all takes many times as long as what most commands ask of it.
 * A row a line, `[code, …],`, in the order of the codes; the first and the last line hold none.
 */
export class CodeRows<Row extends readonly [number, ...unknown[]]> {
  private readonly known = new Map<number, Row | null>();

  constructor(private readonly bytes: Buffer) {}

  row(code: number): Row | null {
    let row = this.known.get(code);
    if (row === undefined) this.known.set(code, (row = this.find(code)));
    return row;
  }

  /** By halving. */
  private find(code: number): Row | null {
    let from = this.bytes.indexOf(LINE) + 1;
    let to = this.bytes.lastIndexOf(LINE, this.bytes.length - 2) + 1; // the last line closes the list
    while (from < to) {
      const start = this.bytes.lastIndexOf(LINE, ((from + to) >> 1) - 1) + 1;
      const end = this.bytes.indexOf(LINE, start);
      const line = this.bytes.toString('utf8', start, end);
      const of = Number.parseInt(line.slice(1), 10);
      if (of === code) return JSON.parse(line.replace(/,$/, '')) as Row;
      if (of < code) from = end + 1;
      else to = start;
    }
    return null;
  }
}
