/** Numbers that place, scale, grow and simplify chosen shapes. */
import { useState, type ReactNode } from "react";
import type { CurrentDrawing } from "@/api/client";
import { NumberField } from "@/ui/Field";
import { IconButton, IconGrid } from "@/ui/IconButton";
import { move, scaleAbout, turnAbout, type Matrix } from "./matrix";
import { boxOf, withGroups, type Selection } from "./selecting";
import type { Editor } from "./useEdit";

export function PlaceFields({
  current,
  chosen,
  edit,
}: {
  current: CurrentDrawing;
  chosen: Selection;
  edit: Editor["edit"];
}) {
  const { shapes, mm_per_px: perPx, figure_px: figure } = current.drawing;
  const [ratio, setRatio] = useState(true);
  const box = boxOf(shapes, chosen);
  if (!box) return null;
  const ids = [...withGroups(shapes, chosen)];
  const middle = { x: box.x + box.width / 2, y: box.y + box.height / 2 };
  const change = (matrix: Matrix) => edit({ kind: "transform", ids, matrix });
  const round = (px: number) => Number((px * perPx).toFixed(2));
  const scale = (sx: number, sy: number) => change(scaleAbout(middle, ratio ? sx : sx, ratio ? sx : sy));
  return (
    <>
      <div className="grid grid-cols-2 gap-x-4">
        <NumberField
          label="X"
          unit="mm"
          value={round(box.x - figure.x_min)}
          onDone={(x) =>
            changed(x, round(box.x - figure.x_min)) && change(move(x / perPx - (box.x - figure.x_min), 0))
          }
        />
        <NumberField
          label="Y"
          unit="mm"
          value={round(box.y - figure.y_min)}
          onDone={(y) =>
            changed(y, round(box.y - figure.y_min)) && change(move(0, y / perPx - (box.y - figure.y_min)))
          }
        />
        <NumberField
          label="W"
          unit="mm"
          value={round(box.width)}
          onDone={(w) => changed(w, round(box.width)) && scale(w / perPx / box.width, 1)}
        />
        <NumberField
          label="H"
          unit="mm"
          value={round(box.height)}
          onDone={(h) => {
            if (!changed(h, round(box.height))) return;
            const by = h / perPx / box.height;
            change(scaleAbout(middle, ratio ? by : 1, by));
          }}
        />
        <NumberField
          label="Scale"
          unit="%"
          value={100}
          onDone={(by) => changed(by, 100) && change(scaleAbout(middle, by / 100, by / 100))}
        />
        <NumberField
          label="Turn"
          unit="°"
          value={0}
          onDone={(by) => changed(by, 0) && change(turnAbout(middle, by))}
        />
      </div>
      <Row>
        <label className="flex items-center gap-1.5">
          <input
            type="checkbox"
            className="accent-blue-pencil"
            checked={ratio}
            onChange={(event) => setRatio(event.target.checked)}
          />
          keep ratio
        </label>
      </Row>
      <IconGrid label="Mirror">
        <IconButton
          mark="mirror-across"
          word="across"
          aria-label="mirror across"
          onClick={() => change(scaleAbout(middle, -1, 1))}
        />
        <IconButton
          mark="mirror-down"
          word="over"
          aria-label="mirror over"
          onClick={() => change(scaleAbout(middle, 1, -1))}
        />
      </IconGrid>
    </>
  );
}

const changed = (next: number, before: number) => Math.abs(next - before) > 1e-9;

export function GrowFields({ ids, some, edit }: { ids: string[]; some: boolean; edit: Editor["edit"] }) {
  const [by, setBy] = useState(0.5);
  const [thin, setThin] = useState(0.02);
  return (
    <>
      <div className="mt-2 flex items-center justify-between gap-2">
        <NumberField label="By" unit="mm" value={by} onDone={setBy} />
        <span className="flex gap-1">
          <IconButton
            mark="grow"
            word="grow"
            disabled={!some}
            onClick={() => edit({ kind: "grow", ids, distance_mm: by, join: "round" })}
          />
          <IconButton
            mark="shrink"
            word="shrink"
            disabled={!some}
            onClick={() => edit({ kind: "grow", ids, distance_mm: -by, join: "round" })}
          />
        </span>
      </div>
      <div className="flex items-center justify-between gap-2">
        <NumberField label="Within" unit="mm" value={thin} onDone={setThin} />
        <IconButton
          mark="thin-out"
          word="thin out"
          aria-label="thin out nodes"
          disabled={!some}
          onClick={() => edit({ kind: "simplify", ids, tolerance_mm: thin })}
        />
      </div>
    </>
  );
}

export function Row({ children }: { children: ReactNode }) {
  return <div className="mb-1 flex flex-wrap gap-x-3 gap-y-0.5">{children}</div>;
}
