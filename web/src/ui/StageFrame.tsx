/** Where a stage puts its things: work in the middle, yardstick and controls at the right, verdict below. */
import { createContext, useContext, type ReactNode } from "react";

/** The yardstick card stands at the top of every stage; the shell provides it. */
export const YardstickSlot = createContext<ReactNode>(null);

interface Props {
  children: ReactNode;
  side: ReactNode;
  tape: ReactNode;
}

export function StageFrame({ children, side, tape }: Props) {
  const yardstick = useContext(YardstickSlot);
  return (
    <>
      <main className="relative col-start-2 row-start-2 min-h-0 min-w-0 overflow-hidden">{children}</main>
      <aside className="col-start-3 row-start-2 flex min-h-0 flex-col border-l border-graphite">
        {yardstick}
        <div className="min-h-0 grow overflow-y-auto">{side}</div>
      </aside>
      <footer className="col-span-3 row-start-3 flex min-w-0 items-stretch overflow-hidden border-t border-graphite bg-sheet">
        {tape}
      </footer>
    </>
  );
}
