import type { ReactNode } from "react";

type Tone = "red" | "leaf" | "ochre" | "graphite" | "plain";

const VERDICT: Record<Tone, string> = {
  red: "bg-red-pencil text-white",
  leaf: "bg-leaf text-white",
  ochre: "bg-ochre-text text-white",
  graphite: "bg-graphite text-sheet",
  plain: "bg-paper text-pencil",
};

/** The verdict in words, at the left end of the tape. */
export function Verdict({ tone, children }: { tone: Tone; children: ReactNode }) {
  return (
    <div
      role="status"
      className={`flex w-[140px] shrink-0 items-center truncate px-3.5 font-semibold ${VERDICT[tone]}`}
    >
      {children}
    </div>
  );
}

interface SegmentProps {
  children: ReactNode;
  /** Marked with a red pencil stroke. */
  red?: boolean;
  active?: boolean;
  onClick?: () => void;
}

/** One measured thing on the tape; a click flies to its place. */
export function TapeSegment({ children, red, active, onClick }: SegmentProps) {
  const inner = (
    <>
      {red && (
        <span aria-hidden className="h-3.5 w-2 -skew-x-12 border-[1.5px] border-r-0 border-red-pencil" />
      )}
      {children}
    </>
  );
  const look = `flex shrink-0 items-center gap-2 border-r border-hair px-3.5 whitespace-nowrap ${active ? "bg-paper shadow-[inset_0_2px_var(--color-red-pencil)]" : ""}`;
  return onClick ? (
    <button type="button" className={`${look} hover:bg-paper`} onClick={onClick}>
      {inner}
    </button>
  ) : (
    <div className={look}>{inner}</div>
  );
}

/** The keys that help now, at the right end. */
export function TapeKeys({ children }: { children: ReactNode }) {
  return (
    <div className="ml-auto hidden shrink-0 items-center gap-3 px-3.5 whitespace-nowrap text-pencil xl:flex">
      {children}
    </div>
  );
}
