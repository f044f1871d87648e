import { crc32, deflateRawSync } from 'node:zlib';

/** A small zip as bytes, written from PKWARE APPNOTE alone, so that the product's own writer is not its judge. */
export function writeZip(members: Readonly<Record<string, string | Buffer>>): Buffer {
  const locals: Buffer[] = [];
  const central: Buffer[] = [];
  let offset = 0;
  for (const [name, content] of Object.entries(members)) {
    const bytes = Buffer.from(content as string);
    const packed = deflateRawSync(bytes);
    const common = Buffer.alloc(26);
    common.writeUInt16LE(20, 0); // version needed
    common.writeUInt16LE(0x0800, 2); // names in UTF-8
    common.writeUInt16LE(8, 4); // deflate
    common.writeUInt32LE(crc32(bytes), 10);
    common.writeUInt32LE(packed.length, 14);
    common.writeUInt32LE(bytes.length, 18);
    common.writeUInt16LE(Buffer.byteLength(name), 22);
    const local = Buffer.concat([Buffer.from('PK\x03\x04'), common, Buffer.from(name), packed]);
    const head = Buffer.alloc(46);
    head.write('PK\x01\x02', 0, 'latin1');
    head.writeUInt16LE(20, 4);
    common.copy(head, 6);
    head.writeUInt32LE(offset, 42);
    central.push(head, Buffer.from(name));
    locals.push(local);
    offset += local.length;
  }
  const directory = Buffer.concat(central);
  const end = Buffer.alloc(22);
  end.write('PK\x05\x06', 0, 'latin1');
  end.writeUInt16LE(locals.length, 8);
  end.writeUInt16LE(locals.length, 10);
  end.writeUInt32LE(directory.length, 12);
  end.writeUInt32LE(offset, 16);
  return Buffer.concat([...locals, directory, end]);
}
