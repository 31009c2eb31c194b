/** One of several, from a list that opens. */
import { getNonce } from "get-nonce";
import { Select } from "radix-ui";

export interface Option {
  value: string;
  label: string;
}

interface Props {
  label: string;
  /** One of the options' values, or "" for none. */
  value: string;
  options: readonly Option[];
  onChange: (value: string) => void;
  /** Shown while none is chosen. */
  placeholder?: string;
  /** Without a frame, for a line of text. */
  bare?: boolean;
  className?: string;
}

export function Picker({
  label,
  value,
  options,
  onChange,
  placeholder,
  bare = false,
  className = "",
}: Props) {
  return (
    <Select.Root value={value} onValueChange={onChange}>
      <Select.Trigger
        aria-label={label}
        className={`inline-flex items-center justify-between gap-1.5 text-left ${bare ? "" : "rounded border border-hair bg-sheet px-2 py-1 hover:border-graphite"} ${className}`}
      >
        <span className="truncate">
          <Select.Value placeholder={placeholder} />
        </span>
        <Select.Icon className="text-pencil">▾</Select.Icon>
      </Select.Trigger>
      <Select.Portal>
        <Select.Content
          position="popper"
          sideOffset={4}
          collisionPadding={8}
          className="z-50 max-h-[min(60vh,var(--radix-select-content-available-height))] min-w-[var(--radix-select-trigger-width)] overflow-y-auto border border-graphite bg-sheet py-1"
        >
          <Select.Viewport nonce={getNonce()}>
            {options.map((option) => (
              <Select.Item
                key={option.value}
                value={option.value}
                className="cursor-default px-3 py-1 outline-none data-[highlighted]:bg-blue-line data-[state=checked]:font-semibold"
              >
                <Select.ItemText>{option.label}</Select.ItemText>
              </Select.Item>
            ))}
          </Select.Viewport>
        </Select.Content>
      </Select.Portal>
    </Select.Root>
  );
}
