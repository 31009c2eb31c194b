/** Subjects proposed from what sells at the stall. It only proposes. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type DemandRow } from "@/api/client";
import { Button } from "@/ui/Button";
import { plural } from "@/ui/format";
import { Panel } from "@/ui/Panel";
import { sortRows, sparkline, type SortKey } from "./demand";

interface Props {
  open: boolean;
  onClose: () => void;
  onTake: (subjects: string[]) => void;
}

const COLUMNS: { key: SortKey; label: string; hint: string }[] = [
  { key: "views_day", label: "views", hint: "Views in the last day" },
  { key: "favourites", label: "liked", hint: "Favourites in the last 14 days" },
  { key: "price", label: "price", hint: "Usual price" },
  { key: "rivals", label: "rivals", hint: "Listings with this subject" },
  { key: "gap", label: "room", hint: "Views a day for each rival: the more, the better" },
];

export function StallFinder({ open, onClose, onTake }: Props) {
  const [theme, setTheme] = useState("");
  const [asked, setAsked] = useState("");
  const [by, setBy] = useState<SortKey>("gap");
  const [chosen, setChosen] = useState<Set<string>>(new Set());
  const found = useQuery({
    queryKey: ["demand", asked],
    queryFn: () => ask(api.GET("/api/stall/demand", { params: { query: { theme: asked } } })),
    enabled: open && asked !== "",
    retry: false,
  });
  const rows = sortRows(found.data ?? [], by);
  const toggle = (subject: string) => {
    const next = new Set(chosen);
    if (!next.delete(subject)) next.add(subject);
    setChosen(next);
  };
  return (
    <Panel
      open={open}
      onClose={onClose}
      title="What sells at the stall"
      description="Invented figures of the stand-in stall. Tick what you would like to draw."
      width={660}
    >
      <form
        className="mb-3 flex gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          setAsked(theme.trim());
        }}
      >
        <input
          aria-label="Theme"
          value={theme}
          onChange={(event) => setTheme(event.target.value)}
          placeholder="allotment in autumn"
          className="grow rounded border border-hair bg-sheet px-2 py-1 hover:border-graphite"
        />
        <Button type="submit">Look it up</Button>
      </form>
      {found.error && <p className="text-red-pencil">{found.error.message}</p>}
      {rows.length > 0 && (
        <>
          <div className="max-h-[42vh] overflow-y-auto">
            <table className="w-full border-collapse">
              <thead className="sticky top-0 bg-sheet">
                <tr className="border-b border-graphite text-left">
                  <th className="py-1 font-normal">subject</th>
                  <th className="py-1 font-normal">14 days</th>
                  {COLUMNS.map((column) => (
                    <th
                      key={column.key}
                      aria-sort={by === column.key ? "descending" : "none"}
                      className="py-1 text-right font-normal"
                    >
                      <button
                        type="button"
                        title={column.hint}
                        onClick={() => setBy(column.key)}
                        className={by === column.key ? "font-semibold" : "text-blue-pencil"}
                      >
                        {column.label}
                        {by === column.key && " ↓"}
                      </button>
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {rows.map((row) => (
                  <Row
                    key={row.subject}
                    row={row}
                    on={chosen.has(row.subject)}
                    onToggle={() => toggle(row.subject)}
                  />
                ))}
              </tbody>
            </table>
          </div>
          <div className="mt-3">
            <Button kind="ink" disabled={chosen.size === 0} onClick={() => onTake([...chosen])}>
              Add {plural(chosen.size, "subject")} to the brief
            </Button>
          </div>
        </>
      )}
    </Panel>
  );
}

function Row({ row, on, onToggle }: { row: DemandRow; on: boolean; onToggle: () => void }) {
  return (
    <tr className="border-b border-hair">
      <td className="py-1">
        <label className="flex items-center gap-2">
          <input type="checkbox" checked={on} onChange={onToggle} className="size-3.5 accent-graphite" />
          {row.subject}
          {!row.drawable && <span className="text-sm text-pencil">not by the stand-in</span>}
        </label>
      </td>
      <td>
        <svg width="90" height="18" role="img" aria-label={`Views of 14 days: ${row.history.join(", ")}`}>
          <polyline
            points={sparkline(row.history, 88, 16)}
            fill="none"
            stroke="#2F6DB5"
            strokeWidth="1.200"
          />
        </svg>
      </td>
      <td className="num text-right">{row.views_day}</td>
      <td className="num text-right">{row.favourites}</td>
      <td className="num text-right">{row.price.toFixed(2)}</td>
      <td className="num text-right">{row.rivals}</td>
      <td className="num text-right">{row.gap.toFixed(1)}</td>
    </tr>
  );
}
