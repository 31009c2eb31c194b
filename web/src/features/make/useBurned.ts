import { useEffect, useState } from "react";
import { useImage } from "@/sheet/useImage";

/** The picture a rehearsal burned, as marks of one colour on a clear ground. */
export function useBurned(url: string | null, colour: string): HTMLCanvasElement | null {
  const image = useImage(url);
  const [burned, setBurned] = useState<HTMLCanvasElement | null>(null);
  useEffect(() => {
    if (!image) {
      setBurned(null);
      return;
    }
    const canvas = document.createElement("canvas");
    canvas.width = image.naturalWidth;
    canvas.height = image.naturalHeight;
    const context = canvas.getContext("2d");
    if (!context) return;
    context.drawImage(image, 0, 0);
    const pixels = context.getImageData(0, 0, canvas.width, canvas.height);
    const [red, green, blue] = [1, 3, 5].map((k) => parseInt(colour.slice(k, k + 2), 16)) as [
      number,
      number,
      number,
    ];
    for (let k = 0; k < pixels.data.length; k += 4) {
      const burnedShare = 255 - (pixels.data[k] ?? 255);
      pixels.data[k] = red;
      pixels.data[k + 1] = green;
      pixels.data[k + 2] = blue;
      pixels.data[k + 3] = burnedShare;
    }
    context.putImageData(pixels, 0, 0);
    setBurned(canvas);
  }, [image, colour]);
  return burned;
}
