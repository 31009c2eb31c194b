/** The sheet: a canvas for the work, rulers around it, marks above it. Zoom to the pointer, pan with space or the middle button. */
import {
  useCallback,
  useEffect,
  useLayoutEffect,
  useRef,
  useState,
  type PointerEvent,
  type ReactNode,
} from "react";
import { paintRulers, RULER_PX, type Painter } from "./paint";
import { useSheetView } from "./sheetView";
import { invert, type Point, type Size, type View } from "./view";

interface Props {
  page: Size;
  label: string;
  painters: Painter[];
  /** Marks in screen px, above the canvas. */
  marks?: (view: View, viewport: Size) => ReactNode;
  onPick?: (mm: Point, context: CanvasRenderingContext2D, more: boolean) => void;
  /** A tool in the hand: a drag is a stroke of places, mm, told while it grows and when it is done. */
  onStroke?: (mm: Point[], done: boolean) => void;
  /** So many nodes that painting them takes longer than a frame: while the view moves, the last picture moves. */
  heavy?: boolean;
}

export function Sheet({ page, label, painters, marks, onPick, onStroke, heavy }: Props) {
  const frame = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const view = useSheetView((state) => state.view);
  const viewport = useSheetView((state) => state.viewport);
  const { setFrame, zoom, move, fitPage, trueSize } = useSheetView.getState();
  const [space, setSpace] = useState(false);
  const drag = useRef<{ x: number; y: number; moved: boolean; panning: boolean } | null>(null);
  const stroke = useRef<Point[] | null>(null);

  const measure = useCallback(() => {
    const box = frame.current?.getBoundingClientRect();
    if (box) setFrame(page, { width: box.width - RULER_PX, height: box.height - RULER_PX });
  }, [page, setFrame]);
  useLayoutEffect(() => {
    measure();
    const observer = new ResizeObserver(measure);
    if (frame.current) observer.observe(frame.current);
    return () => observer.disconnect();
  }, [measure]);

  usePainting(canvas, painters, view, viewport, heavy ?? false);
  useWheel(frame, zoom);
  useSpace(setSpace);

  const local = (event: PointerEvent) => {
    const box = event.currentTarget.getBoundingClientRect();
    return { x: event.clientX - box.left - RULER_PX, y: event.clientY - box.top - RULER_PX };
  };
  const down = (event: PointerEvent) => {
    event.currentTarget.setPointerCapture(event.pointerId);
    drag.current = { x: event.clientX, y: event.clientY, moved: false, panning: space || event.button === 1 };
    if (event.button === 1) event.preventDefault();
    if (onStroke && !space && event.button === 0) {
      stroke.current = [invert(view, local(event))];
      onStroke(stroke.current, false);
    }
  };
  const moved = (event: PointerEvent) => {
    const start = drag.current;
    if (!start) return;
    if (stroke.current) {
      if (Math.hypot(event.clientX - start.x, event.clientY - start.y) >= 4) start.moved = true;
      stroke.current = [...stroke.current, invert(view, local(event))];
      onStroke?.(stroke.current, false);
      return;
    }
    const [dx, dy] = [event.clientX - start.x, event.clientY - start.y];
    if (!start.panning && Math.hypot(dx, dy) < 4) return;
    start.moved = true;
    if (start.panning || !onPick) {
      move(dx, dy);
      drag.current = { ...start, x: event.clientX, y: event.clientY };
    }
  };
  const up = (event: PointerEvent) => {
    const start = drag.current;
    drag.current = null;
    const context = canvas.current?.getContext("2d");
    if (stroke.current) {
      // Where a tool is in the hand and shapes can be chosen, a stroke that went nowhere is a click.
      if (!start?.moved && onPick && context) onPick(invert(view, local(event)), context, event.shiftKey);
      else onStroke?.(stroke.current, true);
      stroke.current = null;
      return;
    }
    if (start && !start.moved && !start.panning && event.button === 0 && context && onPick) {
      onPick(invert(view, local(event)), context, event.shiftKey);
    }
  };

  return (
    <div
      ref={frame}
      className={`relative h-full w-full touch-none overflow-hidden ${space ? "cursor-grab" : onStroke && !onPick ? "cursor-crosshair" : onPick ? "" : "cursor-grab"}`}
      onPointerDown={down}
      onPointerMove={moved}
      onPointerUp={up}
    >
      <canvas ref={canvas} role="img" aria-label={label} className="absolute inset-0 h-full w-full" />
      <svg
        className="pointer-events-none absolute overflow-hidden"
        style={{ left: RULER_PX, top: RULER_PX }}
        width={viewport.width}
        height={viewport.height}
      >
        {marks?.(view, viewport)}
      </svg>
      <div className="absolute right-3 bottom-3 flex items-center gap-1 rounded border border-hair bg-sheet px-1">
        <ViewButton label="Zoom out" onClick={() => zoom(middle(viewport), 1 / 1.3)} text="−" />
        <span className="num w-12 text-center" title="Compared with true size">
          {Math.round((view.scale / (96 / 25.4)) * 100)} %
        </span>
        <ViewButton label="Zoom in" onClick={() => zoom(middle(viewport), 1.3)} text="+" />
        <ViewButton label="Fit (0)" onClick={fitPage} text="fit" />
        <ViewButton label="1:1: True size (Shift+0)" onClick={trueSize} text="1:1" />
      </div>
    </div>
  );
}

const middle = (viewport: Size) => ({ x: viewport.width / 2, y: viewport.height / 2 });

function ViewButton({ label, text, onClick }: { label: string; text: string; onClick: () => void }) {
  return (
    <button
      type="button"
      aria-label={label}
      title={label}
      className="num min-w-6 px-1 py-0.5 hover:bg-paper"
      onPointerDown={(event) => event.stopPropagation()}
      onPointerUp={(event) => event.stopPropagation()}
      onClick={onClick}
    >
      {text}
    </button>
  );
}

/** How long the view must rest until a heavy drawing is painted sharp again. */
const REST_MS = 120;

function usePainting(
  canvas: React.RefObject<HTMLCanvasElement | null>,
  painters: Painter[],
  view: View,
  viewport: Size,
  heavy: boolean,
) {
  const [fonts, setFonts] = useState(false);
  useEffect(() => {
    void document.fonts.load('9px "IBM Plex Mono"').then(() => setFonts(true));
  }, []);
  /** What was painted last, by what, and for which view. */
  const last = useRef<{ picture: HTMLCanvasElement; painters: Painter[]; view: View } | null>(null);
  useLayoutEffect(() => {
    const element = canvas.current;
    const context = element?.getContext("2d");
    if (!element || !context || viewport.width <= 0) return;
    const ratio = window.devicePixelRatio || 1;
    const whole = { width: viewport.width + RULER_PX, height: viewport.height + RULER_PX };
    const [width, height] = [Math.round(whole.width * ratio), Math.round(whole.height * ratio)];
    const resized = element.width !== width || element.height !== height;
    if (resized) {
      element.width = width;
      element.height = height;
    }
    const frame = (inside: () => void) => {
      context.setTransform(ratio, 0, 0, ratio, 0, 0);
      context.clearRect(0, 0, whole.width, whole.height);
      context.save();
      context.beginPath();
      context.rect(RULER_PX, RULER_PX, viewport.width, viewport.height);
      context.clip();
      context.translate(RULER_PX, RULER_PX);
      inside();
      context.restore();
      paintRulers(context, { ...view, x: view.x + RULER_PX, y: view.y + RULER_PX }, whole);
    };
    const paintAll = () => {
      frame(() => painters.forEach((paint) => paint(context, view)));
      if (!heavy) return;
      const picture = last.current?.picture ?? document.createElement("canvas");
      picture.width = width;
      picture.height = height;
      picture.getContext("2d")?.drawImage(element, 0, 0);
      last.current = { picture, painters, view };
    };
    const known = last.current;
    if (!heavy || resized || !known || known.painters !== painters || known.view === view) {
      paintAll();
      return;
    }
    const scale = view.scale / known.view.scale;
    frame(() =>
      context.drawImage(
        known.picture,
        RULER_PX * ratio,
        RULER_PX * ratio,
        viewport.width * ratio,
        viewport.height * ratio,
        view.x - known.view.x * scale,
        view.y - known.view.y * scale,
        viewport.width * scale,
        viewport.height * scale,
      ),
    );
    const timer = setTimeout(paintAll, REST_MS);
    return () => clearTimeout(timer);
  }, [canvas, painters, view, viewport, fonts, heavy]);
}

function useWheel(frame: React.RefObject<HTMLDivElement | null>, zoom: (at: Point, factor: number) => void) {
  useEffect(() => {
    const element = frame.current;
    if (!element) return;
    // Not passive, so that the page itself never scrolls or zooms instead.
    const turn = (event: WheelEvent) => {
      event.preventDefault();
      const box = element.getBoundingClientRect();
      const at = { x: event.clientX - box.left - RULER_PX, y: event.clientY - box.top - RULER_PX };
      zoom(at, Math.exp(-event.deltaY * 0.0016));
    };
    element.addEventListener("wheel", turn, { passive: false });
    return () => element.removeEventListener("wheel", turn);
  }, [frame, zoom]);
}

function useSpace(setSpace: (held: boolean) => void) {
  useEffect(() => {
    const change = (event: KeyboardEvent) => {
      if (event.code !== "Space" || isTyping(event.target)) return;
      if (event.target === document.body) event.preventDefault();
      setSpace(event.type === "keydown");
    };
    window.addEventListener("keydown", change);
    window.addEventListener("keyup", change);
    return () => {
      window.removeEventListener("keydown", change);
      window.removeEventListener("keyup", change);
    };
  }, [setSpace]);
}

function isTyping(target: EventTarget | null) {
  return (
    target instanceof HTMLElement &&
    (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT|BUTTON)$/.test(target.tagName))
  );
}
