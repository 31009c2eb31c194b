/** The small circle: background work with progress, cancel and results. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Popover } from "radix-ui";
import { useState } from "react";
import { api, ask, type Job } from "@/api/client";
import { isUnderWay, useJobs, useUndoneJobs } from "@/api/events";
import { keys } from "@/api/queries";
import { plural } from "@/ui/format";
import { tellProblem } from "@/ui/notices";

/** So many jobs the server lists at a time. */
const PAGE = 60;

export function Activity() {
  const recent = useJobs().data ?? [];
  const undone = useUndoneJobs().data ?? [];
  const [older, setOlder] = useState<Job[]>([]);
  const jobs = [...recent, ...older.filter((job) => !recent.some((known) => known.id === job.id))];
  const underWay = jobs.filter(isUnderWay);
  const share = underWay.length ? underWay.reduce((sum, job) => sum + job.progress, 0) / underWay.length : 0;
  const client = useQueryClient();
  const stale = () => client.invalidateQueries({ queryKey: keys.jobs });
  const clear = useMutation({
    mutationFn: () => ask(api.DELETE("/api/jobs/finished")),
    onSuccess: () => {
      setOlder([]);
      return stale();
    },
    onError: tellProblem,
  });
  const again = useMutation({
    mutationFn: () => ask(api.POST("/api/jobs/undone/again")),
    onSuccess: (started) => {
      void stale();
      const left = undone.length - started.length;
      if (left > 0)
        tellProblem(new Error(`${plural(left, "job")} would ask a generator: run them one by one.`));
    },
    onError: tellProblem,
  });
  const more = useMutation({
    mutationFn: () =>
      ask(api.GET("/api/jobs", { params: { query: { before: Math.min(...jobs.map((job) => job.id)) } } })),
    onSuccess: (page) => setOlder((known) => [...known, ...page]),
    onError: tellProblem,
  });
  const preparing = underWay.find((job) => job.kind === "prepare");
  const label = preparing
    ? `Getting the tracing ready, ${Math.round(preparing.progress * 100)} %`
    : underWay.length
      ? `${underWay.length} under way, ${Math.round(share * 100)} %`
      : "Nothing under way";
  return (
    <Popover.Root>
      <Popover.Trigger className="flex items-center gap-2.5" aria-label={`Activity: ${label}`}>
        <span className="text-pencil">
          {underWay.length ? label : undone.length ? "Activity !" : "Activity"}
        </span>
        <Circle share={preparing?.progress ?? share} busy={underWay.length > 0} />
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={12}
          className="z-40 max-h-[70vh] w-[360px] overflow-y-auto border border-graphite bg-sheet"
        >
          <div className="flex items-baseline justify-between border-b border-hair px-4 py-2.5">
            <h3 className="text-lg">Activity</h3>
            {jobs.some((job) => job.state === "done" || (job.again_id !== null && !isUnderWay(job))) && (
              <button type="button" className="link" onClick={() => clear.mutate()}>
                clear what is done
              </button>
            )}
          </div>
          {undone.length > 0 && (
            <div className="flex items-baseline justify-between border-b border-hair bg-paper px-4 py-2">
              <span className="text-ochre-text">{plural(undone.length, "job")} not done</span>
              <button
                type="button"
                className="link"
                disabled={again.isPending}
                onClick={() => again.mutate()}
              >
                {undone.length > 1 ? "run all again" : "run it again"}
              </button>
            </div>
          )}
          {jobs.length === 0 && (
            <p className="px-4 py-3 text-pencil">Drawing, tracing, making and packing show up here.</p>
          )}
          {jobs.map((job) => (
            <JobRow key={job.id} job={job} />
          ))}
          {jobs.length >= PAGE && more.data?.length !== 0 && (
            <button
              type="button"
              className="link px-4 py-2"
              disabled={more.isPending}
              onClick={() => more.mutate()}
            >
              older ones
            </button>
          )}
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
  const client = useQueryClient();
  const path = { job_id: job.id };
  const act = useMutation<unknown, Error, "cancel" | "again" | "forget">({
    mutationFn: (what) => {
      if (what === "forget") return ask(api.DELETE("/api/jobs/{job_id}", { params: { path } }));
      const where = what === "cancel" ? "/api/jobs/{job_id}/cancel" : "/api/jobs/{job_id}/again";
      return ask(api.POST(where, { params: { path } }));
    },
    onSuccess: (_, what) => what !== "cancel" && client.invalidateQueries({ queryKey: keys.jobs }),
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
        job.state !== "done" &&
        (job.again_id !== null ? (
          <span className="text-sm text-pencil">was run again</span>
        ) : (
          <span className="flex gap-3">
            <button type="button" className="link" onClick={() => act.mutate("again")}>
              run again
            </button>
            <button type="button" className="link text-red-pencil" onClick={() => act.mutate("forget")}>
              let go
            </button>
          </span>
        ))
      )}
    </div>
  );
}
