import { Slider } from "radix-ui";
import { useId } from "react";

interface Props {
  label: string;
  /** The value as it is read, with its unit. */
  reading: string;
  value: number;
  min: number;
  max: number;
  step: number;
  /** A small blue tick on the rail, for example where the automatic value lies. */
  mark?: number;
  onChange: (value: number) => void;
  onDone?: (value: number) => void;
}

/** A named number on a ruled line. "While changing" and "done changing" are two events. */
export function Knob({ label, reading, value, min, max, step, mark, onChange, onDone }: Props) {
  const id = useId();
  return (
    <div className="mt-2 first:mt-0">
      <div className="flex justify-between">
        <span id={id}>{label}</span>
        <span className="num">{reading}</span>
      </div>
      <Slider.Root
        className="relative mt-0.5 flex h-3.5 touch-none items-center"
        value={[value]}
        min={min}
        max={max}
        step={step}
        onValueChange={([next]) => next !== undefined && onChange(next)}
        onValueCommit={([next]) => next !== undefined && onDone?.(next)}
      >
        <Slider.Track className="relative h-px grow bg-graphite">
          {mark !== undefined && (
            <span
              className="absolute -top-[3px] h-[7px] border-l border-blue-pencil"
              style={{ left: `${(100 * (mark - min)) / (max - min)}%` }}
            />
          )}
        </Slider.Track>
        <Slider.Thumb
          aria-labelledby={id}
          aria-valuetext={reading}
          className="block h-[13px] w-[9px] rounded-[2px] border-[1.5px] border-graphite bg-sheet hover:bg-blue-line"
        />
      </Slider.Root>
    </div>
  );
}
