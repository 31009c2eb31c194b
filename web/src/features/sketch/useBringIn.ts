/** Pictures by button, drop and paste. */
import { useEffect, useState, type DragEvent } from "react";
import { tellDone } from "@/ui/notices";
import { sendAll } from "./bringing";

export const PICTURE_TYPES = "image/png,image/jpeg,image/webp,image/bmp,image/tiff,image/gif";

/** Pictures that came before there was a motif: they wait for it, on whatever stage it is written. */
const waiting: File[] = [];

export function useBringIn(motifId: number | null) {
  const [over, setOver] = useState(false);
  const bring = async (files: Iterable<File>) => {
    if (motifId !== null) return sendAll(motifId, [...files]);
    waiting.push(...files);
    tellDone("The picture waits until there is a motif: write a subject in Brief.");
  };
  useEffect(() => {
    if (motifId !== null && waiting.length) void sendAll(motifId, waiting.splice(0));
  }, [motifId]);
  useEffect(() => {
    const paste = (event: ClipboardEvent) => {
      const files = [...(event.clipboardData?.files ?? [])];
      if (!files.length) return;
      event.preventDefault();
      void bring(files);
    };
    window.addEventListener("paste", paste);
    return () => window.removeEventListener("paste", paste);
  });
  return {
    bring,
    over,
    zone: {
      onDragOver: (event: DragEvent) => {
        event.preventDefault();
        setOver(true);
      },
      onDragLeave: (event: DragEvent) => {
        if (!event.currentTarget.contains(event.relatedTarget as Node | null)) setOver(false);
      },
      onDrop: (event: DragEvent) => {
        event.preventDefault();
        setOver(false);
        void bring([...event.dataTransfer.files]);
      },
    },
  };
}
