/** A file as a `data:` address. */
export function dataAddress(blob: Blob): Promise<string> {
  return new Promise((resolve, reject) => {
    const reader = new FileReader();
    reader.onload = () => resolve(reader.result as string);
    reader.onerror = () => reject(new Error('the picture cannot be read'));
    reader.readAsDataURL(blob);
  });
}
