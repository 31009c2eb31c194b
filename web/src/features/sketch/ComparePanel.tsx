/** Two or three sketches large, side by side, zoomed and moved together. */
import { Dialog } from "radix-ui";
import { useEffect, useRef, useState, type PointerEvent } from "react";
import { pictureUrl, type Sketch } from "@/api/client";
import { Button } from "@/ui/Button";
import { movedBy, showCompared, useCompare, WHOLE, zoomedAt, type LinkedView } from "./compare";

interface Props {
  sketches: Sketch[];
  onKeep: (sketch: Sketch) => void;
  onChoose: (sketch: Sketch) => void;
}

export function ComparePanel({ sketches, onKeep, onChoose }: Props) {
  const { ids, open } = useCompare();
  const [view, setView] = useState<LinkedView>(WHOLE);
  const shown = ids.flatMap((id) => sketches.find((sketch) => sketch.id === id) ?? []);
  useEffect(() => {
    if (open) setView(WHOLE);
  }, [open]);
  return (
    <Dialog.Root open={open && shown.length > 0} onOpenChange={showCompared}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-[#24272b55]" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed inset-6 z-50 flex flex-col border border-graphite bg-sheet p-4"
        >
          <div className="mb-3 flex items-baseline gap-4">
            <Dialog.Title className="text-xl">Compare</Dialog.Title>
            <span className="text-pencil">The wheel enlarges all alike; drag to move them.</span>
            <span className="num ml-auto">{Math.round(view.zoom * 100)} %</span>
            <button type="button" className="link" onClick={() => setView(WHOLE)}>
              whole pictures
            </button>
            <Dialog.Close aria-label="Close" className="text-pencil hover:text-graphite">
              ✕
            </Dialog.Close>
          </div>
          <div
            className="grid min-h-0 grow gap-4"
            style={{ gridTemplateColumns: `repeat(${shown.length}, minmax(0, 1fr))` }}
          >
            {shown.map((sketch) => (
              <figure key={sketch.id} className="flex min-h-0 flex-col">
                <LinkedPicture sketch={sketch} view={view} onView={setView} />
                <figcaption className="mt-2 flex items-center gap-3">
                  <span className="num">no. {sketch.id}</span>
                  <Button onClick={() => onKeep(sketch)}>{sketch.kept ? "Set aside" : "Keep"}</Button>
                  <button type="button" className="link" onClick={() => onChoose(sketch)}>
                    choose
                  </button>
                </figcaption>
              </figure>
            ))}
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function LinkedPicture({
  sketch,
  view,
  onView,
}: {
  sketch: Sketch;
  view: LinkedView;
  onView: (view: LinkedView) => void;
}) {
  const frame = useRef<HTMLDivElement>(null);
  const drag = useRef<{ x: number; y: number } | null>(null);
  const latest = useRef(view);
  latest.current = view;
  useEffect(() => {
    const element = frame.current;
    if (!element) return;
    // Not passive, so that the page does not scroll instead.
    const turn = (event: WheelEvent) => {
      event.preventDefault();
      const box = element.getBoundingClientRect();
      const at = { x: (event.clientX - box.left) / box.width, y: (event.clientY - box.top) / box.height };
      onView(zoomedAt(latest.current, at, Math.exp(-event.deltaY * 0.0016)));
    };
    element.addEventListener("wheel", turn, { passive: false });
    return () => element.removeEventListener("wheel", turn);
  }, [onView]);
  const move = (event: PointerEvent) => {
    const from = drag.current;
    const box = frame.current?.getBoundingClientRect();
    if (!from || !box) return;
    onView(movedBy(view, (event.clientX - from.x) / box.width, (event.clientY - from.y) / box.height));
    drag.current = { x: event.clientX, y: event.clientY };
  };
  return (
    <div
      ref={frame}
      className="on-paper relative min-h-0 grow cursor-grab touch-none overflow-hidden border border-hair"
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        drag.current = { x: event.clientX, y: event.clientY };
      }}
      onPointerMove={move}
      onPointerUp={() => (drag.current = null)}
    >
      <img
        src={pictureUrl(sketch.picture_sha)}
        alt={`Sketch ${sketch.id}, large`}
        draggable={false}
        className="absolute inset-0 size-full object-contain"
        style={{
          transform: `scale(${view.zoom}) translate(${(0.5 - view.x) * 100}%, ${(0.5 - view.y) * 100}%)`,
          imageRendering: view.zoom > 3 ? "pixelated" : "auto",
        }}
      />
    </div>
  );
}
