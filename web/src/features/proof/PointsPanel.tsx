import { useState, type ReactNode } from "react";
import { useAction } from "@/keys/useAction";
import { NumberField } from "@/ui/Field";
import { plural } from "@/ui/format";
import { Section } from "@/ui/Section";
import { TextButton } from "@/ui/TextButton";
import type { Editor } from "./useEdit";
import { chosenOnOnePath, type Points } from "./usePoints";

interface Props {
  shapeId: string | null;
  points: Points;
  editor: Editor;
}

export function PointsPanel({ shapeId, points, editor }: Props) {
  const [radius, setRadius] = useState(1);
  const one = chosenOnOnePath(points.chosen);
  const count = points.paths.reduce((sum, path) => sum + path.segments.length, 0);
  const off = !one || editor.busy;
  const edit = (
    what: "insert" | "remove" | "smooth" | "corner" | "straighten" | "round" | "cut" | "join",
  ) => {
    if (!one || !shapeId) return;
    editor.edit(
      {
        kind: "edit-nodes",
        shape: shapeId,
        path: one.path,
        what,
        nodes: one.nodes,
        t: 0.5,
        radius_mm: radius,
        other: what === "join" ? one.other : null,
      },
      () => what !== "smooth" && what !== "corner" && points.setChosen(new Set()),
    );
  };
  useAction("delete", one && !editor.busy ? () => edit("remove") : null);
  if (!shapeId)
    return (
      <Section title="Nodes">
        <p className="text-pencil">Click the shape whose nodes you want to move.</p>
      </Section>
    );
  const act = (what: Parameters<typeof edit>[0], label: ReactNode, title: string) => (
    <TextButton title={title} disabled={off} onClick={() => edit(what)}>
      {label}
    </TextButton>
  );
  return (
    <Section title="Nodes" aside={<span className="num text-pencil">{count}</span>}>
      <p className="mb-1.5 text-sm text-pencil">
        {points.chosen.size
          ? `${plural(points.chosen.size, "node")} chosen`
          : "Drag a node or its handles; drag a box around several; Shift adds more."}
      </p>
      <div className="flex flex-wrap gap-x-3 gap-y-0.5">
        {act("insert", "put one in", "A node in the middle of the segment after the chosen one")}
        {act("remove", "take out", "Take the chosen nodes out and keep the curve")}
        {act("smooth", "smooth", "Handles in one line")}
        {act("corner", "corner", "Handles towards the neighbours")}
        {act("straighten", "straighten", "The segments after the chosen nodes become straight")}
        {act("cut", "cut here", "Open the path at the first chosen node")}
        {act(
          "join",
          one?.other == null ? "close" : "join both",
          "Close an open path, or join the two that nodes are chosen on",
        )}
      </div>
      <div className="mt-1 flex items-baseline justify-between gap-2">
        <NumberField label="Radius" unit="mm" value={radius} onDone={setRadius} />
        {act("round", "round the corners", "Round the chosen corners by the radius")}
      </div>
    </Section>
  );
}
