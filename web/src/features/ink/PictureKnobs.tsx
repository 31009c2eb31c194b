/** What the picture leaves open: its shading, what of it is figure, and places of the ground's colour inside. */
import type { TracePreview, TraceSettings } from "@/api/client";
import { Segments } from "@/ui/Segments";

interface Props {
  settings: TraceSettings;
  /** The trace on the sheet. */
  made: TracePreview | undefined;
  put: (change: Partial<TraceSettings>) => void;
}

const SHADING = [
  { value: "auto" as const, label: "Auto", hint: "By what the drawing is for" },
  { value: "steps" as const, label: "In steps", hint: "A few colours that follow the light" },
  { value: "out" as const, label: "Taken out", hint: "One colour an area" },
];
const TONE = [
  { value: "middle" as const, label: "Middle tone" },
  { value: "light" as const, label: "Light tone" },
];
const FIGURE = [
  { value: "auto" as const, label: "Auto", hint: "Whole, where a dark level would lose much of it" },
  { value: "dark" as const, label: "Dark", hint: "What is darker than the level" },
  { value: "whole" as const, label: "Whole", hint: "All that is not ground" },
];
const INSIDE = [
  { value: "auto" as const, label: "Auto", hint: "By what the drawing is for" },
  { value: "keep" as const, label: "Keep", hint: "Shapes of the ground's own colour" },
  { value: "open" as const, label: "Leave open", hint: "The blank shows through" },
];

export function PictureKnobs({ settings, made, put }: Props) {
  const isShaded = settings.method === "flats" && (made?.shading != null || settings.shading !== "auto");
  const places = made?.inside.length ?? 0;
  return (
    <>
      {isShaded && (
        <Row name="Light and shade">
          <Segments
            label="Light and shade"
            value={settings.shading}
            segments={SHADING}
            onChange={(shading) => put({ shading })}
          />
          {made?.shading === "out" && (
            <div className="mt-1">
              <Segments
                label="Tone"
                value={settings.tone}
                segments={TONE}
                onChange={(tone) => put({ tone })}
              />
            </div>
          )}
        </Row>
      )}
      {settings.method === "solid" && (
        <Row name="Figure">
          <Segments
            label="Figure"
            value={settings.figure}
            segments={FIGURE}
            onChange={(figure) => put({ figure })}
          />
        </Row>
      )}
      {places > 0 && (
        <Row name={`Places inside, ${places}`}>
          <Segments
            label="Places inside"
            value={settings.inside}
            segments={INSIDE}
            onChange={(inside) => put({ inside, turned_inside: [] })}
          />
          <p className="mt-1 text-sm text-pencil">
            {settings.turned_inside.length > 0 ? (
              <>
                {settings.turned_inside.length} the other way.{" "}
                <button type="button" className="link" onClick={() => put({ turned_inside: [] })}>
                  all alike again
                </button>
              </>
            ) : (
              "Click a blue dot on the sheet to turn one of them."
            )}
          </p>
        </Row>
      )}
      {made && made.chosen.length > 0 && (
        <p className="mt-1.5 text-pencil" role="status" aria-label="Chosen by itself">
          {made.chosen.join(" ")}
        </p>
      )}
    </>
  );
}

function Row({ name, children }: { name: string; children: React.ReactNode }) {
  return (
    <div className="my-2">
      <p className="mb-1">{name}</p>
      {children}
    </div>
  );
}
