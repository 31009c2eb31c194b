import { Checkbox } from "radix-ui";
import { useId, type ReactNode } from "react";

interface Props {
  checked: boolean;
  onChange: (checked: boolean) => void;
  disabled?: boolean;
  children: ReactNode;
}

/** A sentence that switches on and off, ticked as with a pencil. */
export function Tick({ checked, onChange, disabled, children }: Props) {
  const id = useId();
  return (
    <div className="flex items-center gap-2 py-0.5">
      <Checkbox.Root
        id={id}
        checked={checked}
        disabled={disabled}
        onCheckedChange={(next) => onChange(next === true)}
        className="relative size-3.5 shrink-0 rounded-[2px] border border-graphite bg-sheet disabled:border-hair"
      >
        <Checkbox.Indicator className="absolute -top-[5px] -left-px">
          <svg width="18" height="18" viewBox="0 0 18 18" fill="none" aria-hidden>
            <path
              d="M3 9.5c1.600 1 2.600 2.500 3.400 4.200C8.500 9 11 5.500 15.500 2.500"
              stroke="#2F6DB5"
              strokeWidth="2.200"
              strokeLinecap="round"
            />
          </svg>
        </Checkbox.Indicator>
      </Checkbox.Root>
      <label htmlFor={id} className={disabled ? "text-pencil" : ""}>
        {children}
      </label>
    </div>
  );
}
