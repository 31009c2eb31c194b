import { ToggleGroup } from "radix-ui";

export interface Segment<T extends string> {
  value: T;
  label: string;
  disabled?: boolean;
  hint?: string;
}

interface Props<T extends string> {
  label: string;
  value: T;
  segments: Segment<T>[];
  onChange: (value: T) => void;
}

/** One of a few, side by side. */
export function Segments<T extends string>({ label, value, segments, onChange }: Props<T>) {
  return (
    <ToggleGroup.Root
      type="single"
      aria-label={label}
      value={value}
      onValueChange={(next) => next && onChange(next as T)}
      className="flex overflow-hidden rounded border border-graphite"
    >
      {segments.map((segment) => (
        <ToggleGroup.Item
          key={segment.value}
          value={segment.value}
          disabled={segment.disabled}
          title={segment.hint}
          className="grow border-r border-graphite bg-sheet px-1 py-0.5 last:border-r-0 disabled:text-pencil data-[state=off]:enabled:hover:bg-paper data-[state=on]:bg-graphite data-[state=on]:font-semibold data-[state=on]:text-sheet"
        >
          {segment.label}
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
  );
}
