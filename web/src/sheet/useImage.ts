import { useEffect, useState } from "react";

/** A decoded picture for the canvas; null until it is there. */
export function useImage(url: string | null): HTMLImageElement | null {
  const [image, setImage] = useState<HTMLImageElement | null>(null);
  useEffect(() => {
    setImage(null);
    if (!url) return;
    let wanted = true;
    const element = new Image();
    element.src = url;
    void element.decode().then(
      () => wanted && setImage(element),
      () => undefined,
    );
    return () => {
      wanted = false;
    };
  }, [url]);
  return image;
}
