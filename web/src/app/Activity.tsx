/** The small circle: background work with progress, cancel and results. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Popover } from "radix-ui";
import { api, ask, type Job } from "@/api/client";
import { isUnderWay, useJobs } from "@/api/events";
import { keys } from "@/api/queries";
import { tellProblem } from "@/ui/notices";

export function Activity() {
  const jobs = useJobs().data ?? [];
  const underWay = jobs.filter(isUnderWay);
  const share = underWay.length ? underWay.reduce((sum, job) => sum + job.progress, 0) / underWay.length : 0;
  const troubled = jobs.some((job) => job.state === "interrupted" || job.state === "failed");
  const client = useQueryClient();
  const clear = useMutation({
    mutationFn: () => ask(api.DELETE("/api/jobs/finished")),
    onSuccess: () => client.invalidateQueries({ queryKey: keys.jobs }),
    onError: tellProblem,
  });
  const label = underWay.length
    ? `${underWay.length} under way, ${Math.round(share * 100)} %`
    : "Nothing under way";
  return (
    <Popover.Root>
      <Popover.Trigger className="flex items-center gap-2.5" aria-label={`Activity: ${label}`}>
        <span className="text-pencil">{underWay.length ? label : troubled ? "Activity !" : "Activity"}</span>
        <Circle share={share} busy={underWay.length > 0} />
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={12}
          className="z-40 max-h-[70vh] w-[360px] overflow-y-auto border border-graphite bg-sheet"
        >
          <div className="flex items-baseline justify-between border-b border-hair px-4 py-2.5">
            <h3 className="text-lg">Activity</h3>
            {jobs.length > underWay.length && (
              <button type="button" className="link" onClick={() => clear.mutate()}>
                clear what has ended
              </button>
            )}
          </div>
          {jobs.length === 0 && (
            <p className="px-4 py-3 text-pencil">Drawing, tracing, making and packing show up here.</p>
          )}
          {jobs.map((job) => (
            <JobRow key={job.id} job={job} />
          ))}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function Circle({ share, busy }: { share: number; busy: boolean }) {
  const around = 2 * Math.PI * 8;
  return (
    <svg width="20" height="20" viewBox="0 0 20 20" fill="none" aria-hidden className={busy ? "turning" : ""}>
      <circle cx="10" cy="10" r="8" stroke="#BBD3EA" strokeWidth="2" />
      {busy && (
        <circle
          cx="10"
          cy="10"
          r="8"
          stroke="#2F6DB5"
          strokeWidth="2"
          strokeDasharray={`${Math.max(0.12, share) * around} ${around}`}
        />
      )}
    </svg>
  );
}

const STATE: Record<string, string> = {
  queued: "text-pencil",
  running: "text-blue-pencil",
  done: "text-leaf",
  failed: "text-red-pencil",
  interrupted: "text-ochre-text",
  cancelled: "text-pencil",
};

function JobRow({ job }: { job: Job }) {
  const act = useMutation({
    mutationFn: (what: "cancel" | "again") =>
      ask(
        what === "cancel"
          ? api.POST("/api/jobs/{job_id}/cancel", { params: { path: { job_id: job.id } } })
          : api.POST("/api/jobs/{job_id}/again", { params: { path: { job_id: job.id } } }),
      ),
    onError: tellProblem,
  });
  const busy = isUnderWay(job);
  return (
    <div className="border-b border-hair px-4 py-2 last:border-b-0">
      <div className="flex justify-between gap-3">
        <span className="truncate">{job.label}</span>
        <span className={`shrink-0 ${STATE[job.state] ?? ""}`}>
          {job.state === "running" ? `${Math.round(job.progress * 100)} %` : job.state}
        </span>
      </div>
      {busy && (
        <div className="mt-1 h-0.5 bg-blue-line">
          <div className="h-0.5 bg-blue-pencil" style={{ width: `${job.progress * 100}%` }} />
        </div>
      )}
      {job.message && <p className="mt-0.5 text-sm text-pencil">{job.message}</p>}
      {busy ? (
        <button type="button" className="link" onClick={() => act.mutate("cancel")}>
          cancel
        </button>
      ) : (
        job.state !== "done" && (
          <button type="button" className="link" onClick={() => act.mutate("again")}>
            run again
          </button>
        )
      )}
    </div>
  );
}
