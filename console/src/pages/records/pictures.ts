/** Longest edge of a photograph that is sent, in pixels: enough to read a label. */
const longEdge = 2560

/** A photograph scaled here, without what the camera wrote beside it; anything else as it is. */
export async function scaled(file: File): Promise<Blob> {
  if (!file.type.startsWith('image/')) return file
  try {
    const picture = await createImageBitmap(file, { imageOrientation: 'from-image' })
    const ratio = Math.min(1, longEdge / Math.max(picture.width, picture.height))
    const canvas = document.createElement('canvas')
    canvas.width = Math.max(1, Math.round(picture.width * ratio))
    canvas.height = Math.max(1, Math.round(picture.height * ratio))
    canvas.getContext('2d')?.drawImage(picture, 0, 0, canvas.width, canvas.height)
    picture.close()
    return (await new Promise<Blob | null>((done) => canvas.toBlob(done, 'image/jpeg', 0.85))) ?? file
  } catch {
    return file // the browser cannot read it; the server says whether it can
  }
}
