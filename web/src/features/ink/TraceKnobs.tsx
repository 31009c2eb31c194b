import { useMutation } from "@tanstack/react-query";
import { api, ask, type TracePreview, type TraceSettings } from "@/api/client";
import { mm } from "@/ui/format";
import { Knob } from "@/ui/Knob";
import { tellProblem } from "@/ui/notices";
import { Section } from "@/ui/Section";
import { Segments } from "@/ui/Segments";
import { Tick } from "@/ui/Tick";
import { PictureKnobs } from "./PictureKnobs";
import type { MethodOrAuto, Wanted } from "./useTraceSettings";

interface Props {
  collectionId: number;
  settings: TraceSettings;
  /** What the picture wants, where that decides. */
  wanted: Wanted | null;
  isAuto: boolean;
  onMethod: (method: MethodOrAuto) => void;
  /** The trace on the sheet. */
  made: TracePreview | undefined;
  mmPerPx: number;
  onChange: (settings: TraceSettings) => void;
}

const METHODS = [
  { value: "auto" as const, label: "Auto", hint: "By what the picture shows" },
  { value: "solid" as const, label: "Solid" },
  { value: "flats" as const, label: "Flats" },
  { value: "centreline" as const, label: "Centreline" },
];
// Areas and tolerances are felt by their ratio, so their knobs run on a logarithm.
const log = Math.log10;
const SPOT = { min: log(1), max: log(4000) };
const STAY = { min: log(0.05), max: log(6) };

const NAMES = { solid: "Solid", flats: "Flats", centreline: "Centreline" };

export function TraceKnobs(props: Props) {
  const { collectionId, settings, wanted, isAuto, onMethod, made, mmPerPx, onChange } = props;
  const put = (change: Partial<TraceSettings>) => onChange({ ...settings, ...change });
  return (
    <Section title="Trace">
      <Segments
        label="Method"
        value={isAuto ? "auto" : settings.method}
        segments={METHODS}
        onChange={onMethod}
      />
      {wanted && (
        <p className="mt-1.5 text-pencil">
          {NAMES[wanted.method]}: {wanted.why}.
        </p>
      )}
      <div className="mt-2.5">
        <PictureKnobs settings={settings} made={made} put={put} />
        {settings.method === "flats" ? (
          <FlatsKnobs
            collectionId={collectionId}
            settings={settings}
            found={new Set(made?.drawing.shapes.map((shape) => shape.fill)).size || 4}
            mmPerPx={mmPerPx}
            put={put}
          />
        ) : settings.method === "solid" && settings.figure === "whole" ? null : (
          <LevelKnob settings={settings} made={made} put={put} />
        )}
        <Knob
          label="Drop spots under"
          reading={mm(settings.min_spot_px2 * mmPerPx ** 2, "mm²")}
          value={log(Math.max(1, settings.min_spot_px2))}
          step={0.02}
          onChange={(value) => put({ min_spot_px2: round(10 ** value, 1) })}
          {...SPOT}
        />
        <Knob
          label="Stay within"
          reading={mm(settings.tolerance_px * mmPerPx)}
          value={log(settings.tolerance_px)}
          step={0.01}
          onChange={(value) => put({ tolerance_px: round(10 ** value, 3) })}
          {...STAY}
        />
        <Knob
          label="Keep corners sharper than"
          reading={`${settings.corner_deg}°`}
          value={settings.corner_deg}
          min={15}
          max={120}
          step={1}
          onChange={(corner_deg) => put({ corner_deg })}
        />
        {settings.method !== "flats" && (
          <div className="mt-1.5 grid gap-1">
            {settings.method === "centreline" && (
              <Tick
                checked={settings.strokes === "outlined"}
                onChange={(outlined) => put({ strokes: outlined ? "outlined" : "single" })}
              >
                Outlines of what the pen covered
              </Tick>
            )}
            <Tick checked={settings.invert} onChange={(invert) => put({ invert })}>
              Light figure on a dark ground
            </Tick>
            <Tick checked={settings.even_light} onChange={(even_light) => put({ even_light })}>
              Even out the light first
            </Tick>
          </div>
        )}
      </div>
    </Section>
  );
}

type Put = (change: Partial<TraceSettings>) => void;

interface LevelProps {
  settings: TraceSettings;
  made: TracePreview | undefined;
  put: Put;
}

function LevelKnob({ settings, made, put }: LevelProps) {
  const automatic = settings.level === null;
  const autoLevel = made?.level ?? 128;
  // Whoever sets a level wants what is darker.
  const isWhole = settings.method === "solid" && made?.figure === "whole";
  return (
    <>
      <Knob
        label="Dark up to"
        reading={automatic ? (isWhole ? "whole figure" : `auto, ${autoLevel}`) : String(settings.level)}
        value={settings.level ?? autoLevel}
        min={1}
        max={254}
        step={1}
        onChange={(level) => put({ level: Math.round(level) })}
      />
      {!automatic && (
        <button type="button" className="link text-sm" onClick={() => put({ level: null })}>
          find the level automatically
        </button>
      )}
    </>
  );
}

function FlatsKnobs({
  collectionId,
  settings,
  found,
  mmPerPx,
  put,
}: {
  collectionId: number;
  settings: TraceSettings;
  found: number;
  mmPerPx: number;
  put: Put;
}) {
  const automatic = settings.colours === null;
  const common = useMutation({
    mutationFn: () =>
      ask(
        api.GET("/api/collections/{collection_id}/palette", {
          params: { path: { collection_id: collectionId }, query: { colours: settings.colours } },
        }),
      ),
    onSuccess: (palette) => put({ palette }),
    onError: tellProblem,
  });
  if (settings.palette.length > 0)
    return (
      <>
        <p className="mb-1">The set's colours</p>
        <ul aria-label="The set's colours" className="mb-1 flex flex-wrap gap-1">
          {settings.palette.map((colour) => (
            <li
              key={colour}
              title={colour}
              className="h-5 w-5 border border-hair"
              style={{ background: colour }}
            />
          ))}
        </ul>
        <button type="button" className="link text-sm" onClick={() => put({ palette: [] })}>
          find this sketch's own colours
        </button>
        <UnderKnobs settings={settings} mmPerPx={mmPerPx} put={put} />
      </>
    );
  return (
    <>
      <Knob
        label="Colours"
        reading={automatic ? `auto, ${found}` : String(settings.colours)}
        value={settings.colours ?? found}
        min={1}
        max={24}
        step={1}
        onChange={(colours) => put({ colours: Math.round(colours) })}
      />
      {!automatic && (
        <button type="button" className="link text-sm" onClick={() => put({ colours: null })}>
          propose the number
        </button>
      )}
      <button
        type="button"
        className="link block text-sm"
        disabled={common.isPending}
        onClick={() => common.mutate()}
      >
        {common.isPending ? "looking at the set …" : "same colours for the whole set"}
      </button>
      <UnderKnobs settings={settings} mmPerPx={mmPerPx} put={put} />
    </>
  );
}

function UnderKnobs({ settings, mmPerPx, put }: { settings: TraceSettings; mmPerPx: number; put: Put }) {
  return (
    <>
      <div className="mt-1.5 grid gap-1">
        <Tick checked={settings.keep_ground} onChange={(keep_ground) => put({ keep_ground })}>
          Draw the ground too
        </Tick>
        <Tick
          checked={settings.borders === "underlaid"}
          onChange={(under) => put({ borders: under ? "underlaid" : "side-by-side" })}
        >
          Carry colours on under their neighbours
        </Tick>
      </div>
      {settings.borders === "underlaid" && (
        <Knob
          label="Reaching under by"
          reading={mm(settings.underlay_px * mmPerPx)}
          value={log(Math.max(0.5, settings.underlay_px))}
          step={0.02}
          min={log(0.5)}
          max={log(40)}
          onChange={(value) => put({ underlay_px: round(10 ** value, 2) })}
        />
      )}
    </>
  );
}

const round = (value: number, digits: number) => Number(value.toFixed(digits));
