/** Things that were there before, told by 64 bits of their bytes: of a million things two that differ are taken for one once in 10⁷ times. */
export class SeenBefore {
  private readonly seen = new Map<number, number>();

  /** Whether the same came before. */
  again(hash: Hash64): boolean {
    const key = hash.high * 0x200000 + (hash.low >>> 11);
    const rest = hash.low & 0x7ff;
    const before = this.seen.get(key);
    if (before === undefined) this.seen.set(key, rest);
    return before === rest;
  }
}

/** Two lanes of 32 bits over bytes and texts (multiplicative, as in cyrb53 by its author's public domain notice; from memory). */
export class Hash64 {
  private a = 0xdeadbeef;
  private b = 0x41c6ce57;

  reset(): this {
    this.a = 0xdeadbeef;
    this.b = 0x41c6ce57;
    return this;
  }

  bytes(bytes: Uint8Array): this {
    let { a, b } = this;
    for (let i = 0; i < bytes.length; i++) {
      a = Math.imul(a ^ bytes[i]!, 2654435761);
      b = Math.imul(b ^ bytes[i]!, 1597334677);
    }
    this.a = a;
    this.b = b;
    return this;
  }

  text(text: string): this {
    let { a, b } = this;
    for (let i = 0; i < text.length; i++) {
      const c = text.charCodeAt(i);
      a = Math.imul(a ^ c, 2654435761);
      b = Math.imul(b ^ c, 1597334677);
    }
    this.a = Math.imul(a ^ 0x1f, 2654435761); // where a text ends
    this.b = Math.imul(b ^ 0x1f, 1597334677);
    return this;
  }

  get high(): number {
    const a = Math.imul(this.a ^ (this.a >>> 16), 2246822507) ^ Math.imul(this.b ^ (this.b >>> 13), 3266489909);
    return a >>> 0;
  }
  get low(): number {
    const b = Math.imul(this.b ^ (this.b >>> 16), 2246822507) ^ Math.imul(this.a ^ (this.a >>> 13), 3266489909);
    return b >>> 0;
  }
}
