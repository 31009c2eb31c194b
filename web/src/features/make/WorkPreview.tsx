/** The blank to scale with the work on it: as planned, or as the rehearsal left it. */
import { lazy, Suspense, useMemo } from "react";
import { pictureUrl, type CollectionView, type CurrentDrawing, type Motif, type Ticket } from "@/api/client";
import { paintDrawing, paintMiddle, paintPage, paintPicture, type Painter } from "@/sheet/paint";
import { placeOnBlank } from "@/sheet/placing";
import { Sheet } from "@/sheet/Sheet";
import { useImage } from "@/sheet/useImage";
import { materialOf } from "./materials";
import { previewShaOf, rehearsalOf } from "./rehearsal";
import { Timeline } from "./Timeline";
import type { Making, Values } from "./settings";
import { useBurned } from "./useBurned";

const SolidView = lazy(() => import("./SolidView"));
const MM_PER_INCH = 25.4;

interface Props {
  view: CollectionView;
  motif: Motif;
  current: CurrentDrawing;
  making: Making;
  widthMm: number;
  values: Values;
  /** The ticket to show, if it is up to date. */
  ticket: Ticket | null;
}

export function WorkPreview(props: Props) {
  const { making, ticket } = props;
  if (making === "relief" && ticket) {
    return (
      <Suspense fallback={<p className="p-6 text-pencil">Setting up the solid …</p>}>
        <SolidView ticket={ticket} />
      </Suspense>
    );
  }
  return <FlatWork {...props} />;
}

function FlatWork({ view, motif, current, making, widthMm, values, ticket }: Props) {
  const { yardstick } = view.yardstick;
  const rehearsal = ticket ? rehearsalOf(ticket) : null;
  const page = useMemo(() => {
    if (making === "apparel")
      return {
        width: Number(values.area_width_in) * MM_PER_INCH,
        height: Number(values.area_height_in) * MM_PER_INCH,
      };
    const { blank_width_mm: width, blank_height_mm: height } = yardstick;
    return {
      width: Math.max(width, making === "laser" ? 0 : widthMm * 1.1),
      height: Math.max(height, making === "laser" ? 0 : heightOf(current, widthMm) * 1.1),
    };
  }, [making, values.area_width_in, values.area_height_in, yardstick, widthMm, current]);
  const material = materialOf(
    making === "apparel" ? "apron" : making === "carve" ? yardstick.blank || "oak" : yardstick.blank,
  );
  const burned = useBurned(rehearsal && ticket ? pictureUrl(previewShaOf(ticket)) : null, material.mark);
  const print = useImage(making === "apparel" && ticket ? pictureUrl(previewShaOf(ticket)) : null);

  const painters = useMemo<Painter[]>(() => {
    const list = [paintPage(page, material.ground, "#24272b55")];
    const placing = placeOnBlank(current.drawing, page, widthMm);
    if (burned && rehearsal) {
      const [x0, y0, x1, y1] = rehearsal.pictureBoundsMm;
      const mmPerPx = (x1 - x0) / burned.width;
      const origin = { x: x0, y: (rehearsal.pageMm?.[1] ?? page.height) - y1 };
      list.push(
        paintPicture(
          burned,
          { width: burned.width, height: ((y1 - y0) / (x1 - x0)) * burned.width },
          { mmPerPx, origin },
        ),
      );
    } else if (print) {
      list.push(
        paintPicture(
          print,
          { width: print.width, height: print.height },
          { mmPerPx: page.width / print.width, origin: { x: 0, y: 0 } },
        ),
      );
    } else if (making === "apparel") {
      const top = Number(values.top_mm) - current.drawing.figure_px.y_min * placing.mmPerPx;
      list.push(paintDrawing(current.drawing, { ...placing, origin: { ...placing.origin, y: top } }));
    } else {
      list.push(
        paintMiddle(page),
        paintDrawing(current.drawing, placing, { colour: material.mark, hairline: making === "carve" }),
      );
    }
    return list;
  }, [page, material, current, widthMm, burned, rehearsal, print, making, values.top_mm]);

  return (
    <div className="grid h-full grid-rows-[minmax(0,1fr)_auto]">
      <Sheet
        page={page}
        label={`${motif.name} on ${yardstick.blank || "its blank"}, ${widthMm} mm wide`}
        painters={painters}
      />
      {rehearsal && <Timeline rehearsal={rehearsal} />}
    </div>
  );
}

function heightOf(current: CurrentDrawing, widthMm: number): number {
  const box = current.drawing.figure_px;
  return box.x_max > box.x_min ? (widthMm * (box.y_max - box.y_min)) / (box.x_max - box.x_min) : widthMm;
}
