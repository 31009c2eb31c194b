import { useEffect, useId, useState, type ComponentProps, type ReactNode } from "react";

interface NumberProps {
  label: string;
  value: number;
  unit: string;
  /** Called with a finite number when the maker leaves the field or presses Enter. */
  onDone: (value: number) => void;
}

/** A number with its unit. Limits are the server's: whatever it refuses is said in its own sentence. */
export function NumberField({ label, value, unit, onDone }: NumberProps) {
  const id = useId();
  const [text, setText] = useState(String(value));
  useEffect(() => setText(String(value)), [value]);
  const finish = () => {
    const parsed = Number(text.replace(",", "."));
    if (text.trim() !== "" && Number.isFinite(parsed)) onDone(parsed);
    else setText(String(value));
  };
  return (
    <div className="flex items-baseline justify-between gap-2 py-0.5">
      <label htmlFor={id}>{label}</label>
      <span className="flex items-baseline gap-1.5">
        <input
          id={id}
          inputMode="decimal"
          value={text}
          onChange={(event) => setText(event.target.value)}
          onBlur={finish}
          onKeyDown={(event) => event.key === "Enter" && finish()}
          className="num w-16 border-b border-hair bg-transparent text-right hover:border-graphite focus:border-blue-pencil focus:outline-none"
        />
        <span className="num w-9 text-pencil">{unit}</span>
      </span>
    </div>
  );
}

const BOX = "w-full rounded border border-hair bg-sheet px-2 py-1 hover:border-graphite";

function Labelled({
  id,
  label,
  className,
  children,
}: {
  id: string;
  label: string;
  className: string;
  children: ReactNode;
}) {
  return (
    <div className={className}>
      <label htmlFor={id} className="mb-0.5 block text-pencil">
        {label}
      </label>
      {children}
    </div>
  );
}

export function TextField({ label, className = "", ...rest }: ComponentProps<"input"> & { label: string }) {
  const id = useId();
  return (
    <Labelled id={id} label={label} className={className}>
      <input id={id} className={BOX} {...rest} />
    </Labelled>
  );
}

export function TextArea({ label, className = "", ...rest }: ComponentProps<"textarea"> & { label: string }) {
  const id = useId();
  return (
    <Labelled id={id} label={label} className={className}>
      <textarea id={id} className={`${BOX} resize-none`} {...rest} />
    </Labelled>
  );
}
