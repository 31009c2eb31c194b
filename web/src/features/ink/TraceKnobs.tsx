import type { TraceSettings } from "@/api/client";
import { mm } from "@/ui/format";
import { Knob } from "@/ui/Knob";
import { Section } from "@/ui/Section";
import { Segments } from "@/ui/Segments";
import { Tick } from "@/ui/Tick";

interface Props {
  settings: TraceSettings;
  /** Where the automatic level lies. */
  autoLevel: number;
  mmPerPx: number;
  onChange: (settings: TraceSettings) => void;
}

const NOT_YET = "Not built yet";
const METHODS = [
  { value: "solid" as const, label: "Solid" },
  { value: "flats" as const, label: "Flats", disabled: true, hint: NOT_YET },
  { value: "centreline" as const, label: "Centreline", disabled: true, hint: NOT_YET },
];
// Areas and tolerances are felt by their ratio, so their knobs run on a logarithm.
const log = Math.log10;
const SPOT = { min: log(1), max: log(4000) };
const STAY = { min: log(0.05), max: log(6) };

export function TraceKnobs({ settings, autoLevel, mmPerPx, onChange }: Props) {
  const put = (change: Partial<TraceSettings>) => onChange({ ...settings, ...change });
  const automatic = settings.level === null;
  return (
    <Section title="Trace">
      <Segments
        label="Method"
        value={settings.method}
        segments={METHODS}
        onChange={(method) => put({ method })}
      />
      <div className="mt-2.5">
        <Knob
          label="Dark up to"
          reading={automatic ? `auto, ${autoLevel}` : String(settings.level)}
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
        <div className="mt-1.5">
          <Tick checked={settings.invert} onChange={(invert) => put({ invert })}>
            Light figure on a dark ground
          </Tick>
        </div>
      </div>
    </Section>
  );
}

const round = (value: number, digits: number) => Number(value.toFixed(digits));
