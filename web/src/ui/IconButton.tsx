/** Small things to do as a grid of drawn marks, each with its word below. */
import type { ComponentProps, ReactNode } from "react";
import { MARKS, type Mark } from "./marks";

interface GridProps {
  label: string;
  /** Four in a row, for longer words. */
  wide?: boolean;
  children: ReactNode;
}

export function IconGrid({ label, wide = false, children }: GridProps) {
  return (
    <div role="group" aria-label={label} className="mt-2 first:mt-0">
      <h4 className="mb-0.5 text-xs text-pencil">{label}</h4>
      <div className={`grid gap-1 ${wide ? "grid-cols-4" : "grid-cols-5"}`}>{children}</div>
    </div>
  );
}

type Props = ComponentProps<"button"> & { mark: Mark; word: string };

export function IconButton({ mark, word, className = "", ...rest }: Props) {
  const { lines, shade } = MARKS[mark];
  return (
    <button
      type="button"
      className={`group grid justify-items-center rounded border border-transparent px-0.5 pt-1 pb-0.5 enabled:hover:border-hair enabled:hover:bg-sheet disabled:opacity-40 aria-pressed:border-blue-pencil aria-pressed:bg-sheet ${className}`}
      {...rest}
    >
      <svg width="22" height="22" viewBox="0 0 22 22" fill="none" aria-hidden>
        {shade && <path d={shade} className="fill-blue-line" />}
        <path
          d={lines}
          className="stroke-graphite group-enabled:group-hover:stroke-blue-pencil"
          strokeWidth="1.4"
          strokeLinecap="round"
          strokeLinejoin="round"
        />
      </svg>
      <span className="max-w-full truncate text-[10.5px] leading-tight text-pencil">{word}</span>
    </button>
  );
}
