/** Shrinks a phone photo for upload and rotates it upright; PDFs and small images are unchanged. */
async function shrink(file: File, longest = 2000): Promise<Blob> {
  if (!file.type.startsWith('image/')) return file;
  // The browser applies the EXIF orientation while decoding.
  const bitmap = await createImageBitmap(file, { imageOrientation: 'from-image' }).catch(() => null);
  if (!bitmap) return file;
  const scale = Math.min(1, longest / Math.max(bitmap.width, bitmap.height));
  const canvas = document.createElement('canvas');
  canvas.width = Math.round(bitmap.width * scale);
  canvas.height = Math.round(bitmap.height * scale);
  const pen = canvas.getContext('2d');
  if (!pen) return file;
  pen.fillStyle = '#fff';
  pen.fillRect(0, 0, canvas.width, canvas.height);
  pen.drawImage(bitmap, 0, 0, canvas.width, canvas.height);
  bitmap.close();
  return (await new Promise<Blob | null>((resolve) => canvas.toBlob(resolve, 'image/jpeg', 0.85))) ?? file;
}

/** A photo for upload with its name, which ends as what it became. */
export async function photoOf(file: File): Promise<{ picture: Blob; name: string }> {
  const picture = await shrink(file);
  const ending = picture === file ? (/\.\w+$/.exec(file.name)?.[0] ?? '') : '.jpg';
  return { picture, name: file.name.replace(/\.\w+$/, '') + ending };
}
