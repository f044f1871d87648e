import { PDFName, type PDFDocument, type PDFRef } from 'pdf-lib';

/** Rows that are held at a time. */
const ROWS = 256;

/** A picture as an object of a PDF: three bytes a pixel, packed with Deflate piece by piece (ISO 32000-1, 8.9.5 and 7.4.4). */
export async function embedPicture(pdf: PDFDocument, blob: Blob): Promise<PDFRef> {
  const bitmap = await createImageBitmap(blob);
  const { width, height } = bitmap;
  const packer = new CompressionStream('deflate');
  const packed = new Response(packer.readable).arrayBuffer();
  const writer = packer.writable.getWriter();
  const strip = new OffscreenCanvas(width, ROWS);
  const context = strip.getContext('2d', { willReadFrequently: true })!;
  for (let row = 0; row < height; row += ROWS) {
    const rows = Math.min(ROWS, height - row);
    context.drawImage(bitmap, 0, row, width, rows, 0, 0, width, rows);
    const { data } = context.getImageData(0, 0, width, rows);
    const rgb = new Uint8Array(width * rows * 3);
    for (let i = 0, k = 0; k < rgb.length; i += 4, k += 3) {
      rgb[k] = data[i]!;
      rgb[k + 1] = data[i + 1]!;
      rgb[k + 2] = data[i + 2]!;
    }
    await writer.write(rgb);
  }
  await writer.close();
  bitmap.close();
  const bytes = new Uint8Array(await packed);
  const stream = pdf.context.stream(bytes, {
    Type: 'XObject',
    Subtype: 'Image',
    Width: width,
    Height: height,
    ColorSpace: 'DeviceRGB',
    BitsPerComponent: 8,
    Filter: PDFName.of('FlateDecode'),
  });
  return pdf.context.register(stream);
}
