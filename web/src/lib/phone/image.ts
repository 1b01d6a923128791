/** A phone's photograph made small enough to send and turned the right way up; PDFs and small pictures stay as they are. */
export async function shrink(file: File, longest = 2000): Promise<Blob> {
  if (!file.type.startsWith('image/')) return file;
  // The browser turns the picture by its EXIF orientation while it reads it.
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
