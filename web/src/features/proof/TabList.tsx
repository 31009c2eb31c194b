/** What one does with a drawing here, one at a time. */
export type Tab = "mend" | "shapes" | "nodes" | "colours" | "letters" | "history";

const TABS: [Tab, string][] = [
  ["mend", "Mend"],
  ["shapes", "Shapes"],
  ["nodes", "Nodes"],
  ["colours", "Colours"],
  ["letters", "Letters"],
  ["history", "History"],
];

export function TabList({ tab, onTab }: { tab: Tab; onTab: (tab: Tab) => void }) {
  const step = (by: number) => {
    const at = TABS.findIndex(([value]) => value === tab);
    onTab(TABS[(at + by + TABS.length) % TABS.length]![0]);
  };
  return (
    <div
      role="tablist"
      aria-label="Work on the drawing"
      className="flex justify-between border-b border-hair px-4 pt-2 text-sm"
    >
      {TABS.map(([value, label]) => (
        <button
          key={value}
          type="button"
          role="tab"
          aria-selected={tab === value}
          tabIndex={tab === value ? 0 : -1}
          onClick={() => onTab(value)}
          onKeyDown={(event) => {
            if (event.key !== "ArrowRight" && event.key !== "ArrowLeft") return;
            event.preventDefault();
            event.stopPropagation();
            step(event.key === "ArrowRight" ? 1 : -1);
            const next =
              event.key === "ArrowRight"
                ? event.currentTarget.nextElementSibling
                : event.currentTarget.previousElementSibling;
            (next as HTMLElement | null)?.focus();
          }}
          className={`-mb-px border-b-2 pb-1 ${tab === value ? "border-graphite font-semibold" : "border-transparent text-pencil hover:text-graphite"}`}
        >
          {label}
        </button>
      ))}
    </div>
  );
}
