/** Comparing in place: the sketch or an earlier state under, beside or instead of the drawing. */
import type { Painter } from "@/sheet/paint";
import type { Size } from "@/sheet/view";

export interface Compare {
  /** How far the drawing is faded out, 0-1. */
  fade: number;
  /** Where the divider stands, as a share of the sheet's width; null without one. */
  divider: number | null;
  outlines: boolean;
}

export const PLAIN: Compare = { fade: 0, divider: null, outlines: false };

export function faded(painter: Painter, alpha: number): Painter {
  return (context, view) => {
    context.save();
    context.globalAlpha = alpha;
    painter(context, view);
    context.restore();
  };
}

/** Paint only left (or right) of the divider. */
export function beside(painter: Painter, side: "left" | "right", share: number, viewport: Size): Painter {
  return (context, view) => {
    const at = share * viewport.width;
    context.save();
    context.beginPath();
    if (side === "left") context.rect(0, 0, at, viewport.height);
    else context.rect(at, 0, viewport.width - at, viewport.height);
    context.clip();
    painter(context, view);
    context.restore();
  };
}

/** The divider itself. */
function line(share: number, viewport: Size): Painter {
  return (context) => {
    const at = Math.round(share * viewport.width) + 0.5;
    context.save();
    context.strokeStyle = "#2f6db5";
    context.lineWidth = 1;
    context.beginPath();
    context.moveTo(at, 0);
    context.lineTo(at, viewport.height);
    context.stroke();
    context.restore();
  };
}

/** What is painted, from below to above, for a way of comparing. */
export function comparing(
  drawing: Painter,
  other: Painter | null,
  { fade, divider }: Compare,
  viewport: Size,
): Painter[] {
  if (!other) return [drawing];
  if (divider !== null)
    return [
      beside(other, "left", divider, viewport),
      beside(drawing, "right", divider, viewport),
      line(divider, viewport),
    ];
  if (fade > 0) return [other, faded(drawing, 1 - fade)];
  return [drawing];
}
