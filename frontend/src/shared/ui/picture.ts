const MOST_CHARACTERS = 1_200_000; // the document takes a quarter more
const QUALITIES = [0.72, 0.5, 0.3];
const SHRINK = 0.7;

export type Picture = { picture: string; width_px: number; height_px: number };
export const NO_PICTURE = "This is no picture that can be read; take a JPEG or PNG.";

/** A picture made small enough to travel with the document: by its sides, then by its grain, then by its sides again. */
export async function small(file: File, mostSidePx: number): Promise<Picture> {
  const bitmap = await createImageBitmap(file);
  const canvas = document.createElement("canvas");
  let scale = Math.min(1, mostSidePx / Math.max(bitmap.width, bitmap.height));
  for (;;) {
    canvas.width = Math.max(1, Math.round(bitmap.width * scale));
    canvas.height = Math.max(1, Math.round(bitmap.height * scale));
    canvas.getContext("2d")?.drawImage(bitmap, 0, 0, canvas.width, canvas.height);
    for (const quality of QUALITIES) {
      const picture = canvas.toDataURL("image/jpeg", quality);
      if (picture.length <= MOST_CHARACTERS) return { picture, width_px: canvas.width, height_px: canvas.height };
    }
    scale *= SHRINK;
  }
}
