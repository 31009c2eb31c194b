import { useNotices } from "@/ui/notices";

export function Notices() {
  const { notices, dismiss } = useNotices();
  return (
    <div
      aria-live="polite"
      className="pointer-events-none fixed bottom-[52px] left-[156px] z-30 flex max-w-[620px] flex-col gap-2"
    >
      {notices.map((notice) => (
        <div
          key={notice.id}
          role={notice.kind === "problem" ? "alert" : "status"}
          className={`pointer-events-auto flex items-start gap-3 border border-graphite border-l-4 bg-sheet px-3 py-2 ${notice.kind === "problem" ? "border-l-red-pencil" : "border-l-leaf"}`}
        >
          <span>{notice.text}</span>
          <button
            type="button"
            aria-label="Dismiss"
            className="text-pencil hover:text-graphite"
            onClick={() => dismiss(notice.id)}
          >
            ✕
          </button>
        </div>
      ))}
    </div>
  );
}
