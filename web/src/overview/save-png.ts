/** Twice as many pixels as the screen has, so that it can be printed. */
const SHARPNESS = 2;
/** Pixels along a side that browsers draw. */
const MOST_PIXELS = 16_000;

/** Hands a picture of an SVG to the person as a file of the browser. */
export async function savePng(name: string, svg: string): Promise<void> {
  const source = URL.createObjectURL(new Blob([svg], { type: 'image/svg+xml' }));
  try {
    const image = new Image();
    image.src = source;
    await image.decode();
    const times = Math.min(SHARPNESS, MOST_PIXELS / Math.max(image.width, image.height));
    const canvas = document.createElement('canvas');
    [canvas.width, canvas.height] = [Math.round(image.width * times), Math.round(image.height * times)];
    canvas.getContext('2d')!.drawImage(image, 0, 0, canvas.width, canvas.height);
    const link = document.createElement('a');
    link.href = canvas.toDataURL('image/png');
    link.download = name;
    link.click();
  } finally {
    URL.revokeObjectURL(source);
  }
}
