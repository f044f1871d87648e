/** Takes the packing off one strip or tile. Null: packed in a way that is not read here, or damaged. */
export type Inflate = (packed: Uint8Array, mostBytes: number) => Uint8Array | null;

export function unpackBlock(packed: Uint8Array, compression: number, bytes: number, inflate: Inflate): Uint8Array | null {
  if (bytes > packed.length * MOST_EXPANSION) return null; // a header that lies: no packing here gets that small
  const out = unpack(packed, compression, bytes, inflate);
  return out && out.length >= bytes ? out : null;
}

const MOST_EXPANSION = 5000;

function unpack(packed: Uint8Array, compression: number, bytes: number, inflate: Inflate): Uint8Array | null {
  switch (compression) {
    case 1:
      return Uint8Array.from(packed); // a copy, since undoing a predictor writes into it
    case 5:
      return unpackLzw(packed, bytes);
    case 8:
    case 32946:
      return inflate(packed, bytes);
    case 32773:
      return unpackBits(packed, bytes);
    default:
      return null;
  }
}

/** PackBits. TIFF 6.0 section 9. Shorter than asked for where the packed bytes end early. */
function unpackBits(packed: Uint8Array, bytes: number): Uint8Array {
  const out = new Uint8Array(bytes);
  let to = 0;
  for (let at = 0; at < packed.length && to < bytes;) {
    const n = (packed[at++]! << 24) >> 24;
    if (n >= 0) {
      const run = packed.subarray(at, Math.min(at + n + 1, at + bytes - to));
      out.set(run, to);
      to += run.length;
      at += n + 1;
    } else if (n !== -128) {
      const end = Math.min(bytes, to + 1 - n);
      out.fill(packed[at++] ?? 0, to, end);
      to = end;
    }
  }
  return out.subarray(0, to);
}

const CLEAR = 256;
const END = 257;

/** LZW, codes most significant bit first, width grown one code early. TIFF 6.0 section 13. Shorter where the codes end early. */
function unpackLzw(packed: Uint8Array, bytes: number): Uint8Array {
  const out = new Uint8Array(bytes);
  const prefix = new Uint16Array(4097);
  const suffix = new Uint8Array(4097);
  const lengths = new Uint16Array(4097);
  for (let i = 0; i < 256; i++) {
    suffix[i] = i;
    lengths[i] = 1;
  }
  let next = 258;
  let width = 9;
  let previous = -1;
  let to = 0;
  let bits = 0;
  let held = 0;
  const firstByte = (code: number): number => {
    let c = code;
    while (lengths[c]! > 1) c = prefix[c]!;
    return suffix[c]!;
  };
  for (let at = 0; to < bytes;) {
    while (held < width && at < packed.length) {
      bits = ((bits << 8) | packed[at++]!) & 0xffffff;
      held += 8;
    }
    if (held < width) break;
    const code = (bits >> (held - width)) & ((1 << width) - 1);
    held -= width;
    if (code === END) break;
    if (code === CLEAR) {
      next = 258;
      width = 9;
      previous = -1;
      continue;
    }
    if (code > next || (code === next && previous < 0)) break;
    if (previous >= 0 && next <= 4095) {
      prefix[next] = previous;
      suffix[next] = firstByte(code === next ? previous : code);
      lengths[next] = lengths[previous]! + 1;
      next++;
    }
    let c = code;
    const length = lengths[code]!;
    for (let i = length - 1; i >= 0; i--) {
      if (to + i < bytes) out[to + i] = suffix[c]!;
      c = prefix[c]!;
    }
    to += length;
    previous = code;
    if (next >= (1 << width) - 1 && width < 12) width++;
  }
  return out.subarray(0, Math.min(to, bytes));
}
