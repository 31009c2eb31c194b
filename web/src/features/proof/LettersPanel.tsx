/** Real letters: set, bent, sized in mm; they stay text until something else is done to them. */
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, ask, type CurrentDrawing, type Finding, type LetterOperation } from "@/api/client";
import { Picker } from "@/ui/Picker";
import { Button } from "@/ui/Button";
import { NumberField, TextArea } from "@/ui/Field";
import { Section } from "@/ui/Section";
import { Segments } from "@/ui/Segments";
import { TextButton } from "@/ui/TextButton";
import { FontLicence } from "./FontLicence";
import type { Selection } from "./selecting";
import type { Editor } from "./useEdit";

const BENDS = [
  { value: "straight", label: "straight" },
  { value: "arch", label: "arch" },
  { value: "circle", label: "circle" },
  { value: "bulge", label: "bulge" },
  { value: "wave", label: "wave" },
] as const;
type Bend = (typeof BENDS)[number]["value"];
/** Boxes of traced letters are exact; what touches them from within is a letter. */
const SLACK_PX = 0.01;
const USUAL: Record<Bend, number> = { straight: 0, arch: 120, circle: 0, bulge: 0.4, wave: 0.3 };

interface Props {
  current: CurrentDrawing;
  chosen: Selection;
  fill: string;
  editor: Editor;
  /** Traced letters that these take the place of. */
  instead: Finding | null;
}

export function LettersPanel({ current, chosen, fill, editor, instead }: Props) {
  const fonts =
    useQuery({ queryKey: ["fonts"], queryFn: () => ask(api.GET("/api/fonts")), staleTime: Infinity }).data ??
    [];
  const { shapes, figure_px: figure, mm_per_px: perPx } = current.drawing;
  const old = shapes.find((shape) => chosen.has(shape.id) && shape.letters);
  const [text, setText] = useState("");
  const [font, setFont] = useState("lilita-one");
  const [height, setHeight] = useState(6);
  const [bend, setBend] = useState<Bend>("straight");
  const [by, setBy] = useState(0);
  const [licence, setLicence] = useState(false);
  useEffect(() => {
    if (!old) return;
    const set = JSON.parse(old.letters) as {
      text: string;
      font: string;
      cap_height_mm: number;
      bend: Bend;
      bend_by: number;
    };
    setText(set.text);
    setFont(set.font);
    setHeight(set.cap_height_mm);
    setBend(set.bend);
    setBy(set.bend_by);
  }, [old]);
  const [low, high] = instead?.trail_px ?? [];
  const box = low && high ? { x0: low.x, y0: low.y, x1: high.x, y1: high.y } : null;
  const boxHigh = box ? (box.y1 - box.y0) * perPx : null;
  useEffect(() => {
    if (boxHigh !== null) setHeight(Math.max(0.5, Number(boxHigh.toFixed(2))));
  }, [boxHigh]);
  const face = fonts.find((each) => each.key === font);
  const order = (): LetterOperation => {
    const before = old ? (JSON.parse(old.letters) as { x: number; y: number }) : null;
    return {
      kind: "letter",
      text,
      font,
      cap_height_mm: height,
      // New letters stand where the traced ones stood, or below the figure in its middle.
      x: before?.x ?? (box ? (box.x0 + box.x1) / 2 : (figure.x_min + figure.x_max) / 2),
      y: before?.y ?? (box ? (box.y0 + box.y1) / 2 : figure.y_max + (1.5 * height) / perPx),
      bend,
      bend_by: by,
      tracking: 0,
      fill: old?.fill ?? fill,
      replaces: old?.id ?? "",
      clears:
        box && !old ? [box.x0 - SLACK_PX, box.y0 - SLACK_PX, box.x1 + SLACK_PX, box.y1 + SLACK_PX] : null,
    };
  };
  return (
    <Section title={old ? "Set these letters anew" : "Set letters"}>
      <TextArea
        label="Text"
        rows={2}
        value={text}
        maxLength={400}
        onChange={(event) => setText(event.target.value)}
        className="mb-2"
      />
      <span className="mb-0.5 block text-pencil">Font</span>
      <Picker
        label="Font"
        value={font}
        options={fonts.map((each) => ({ value: each.key, label: `${each.title} · ${each.good_for}` }))}
        onChange={setFont}
        className="w-full"
      />
      <p className="mt-0.5 mb-1.5 text-sm">
        {face && (
          <TextButton onClick={() => setLicence(true)} title="Read the licence">
            {face.licence}
          </TextButton>
        )}
      </p>
      {face && licence && (
        <FontLicence font={face.key} title={face.title} onClose={() => setLicence(false)} />
      )}
      <NumberField label="Capitals" unit="mm" value={height} onDone={setHeight} />
      <div className="my-1.5">
        <Segments
          label="How the line runs"
          value={bend}
          segments={[...BENDS]}
          onChange={(next) => (setBend(next), setBy(USUAL[next]))}
        />
      </div>
      {bend === "arch" && <NumberField label="Spans" unit="°" value={by} onDone={setBy} />}
      {(bend === "bulge" || bend === "wave") && (
        <NumberField label="Rises" unit="× cap" value={by} onDone={setBy} />
      )}
      <Button
        kind="ink"
        className="mt-2"
        disabled={!text.trim() || editor.busy}
        onClick={() => editor.edit(order())}
      >
        {old ? "Set anew" : "Set the letters"}
      </Button>
      <p className="mt-1.5 text-sm text-pencil">
        {old
          ? "Chosen letters can be changed until something else is done to them."
          : box
            ? "They take the place of the traced ones, in one step."
            : "They are outlines for every machine, and stay text for you until you reshape them."}
      </p>
    </Section>
  );
}
