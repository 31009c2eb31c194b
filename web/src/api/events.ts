/** Server-sent events of background work, folded into the query cache. */
import { useQuery, useQueryClient, type QueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { api, ask, type Job } from "./client";
import { keys } from "./queries";

export const isUnderWay = (job: Job) => job.state === "queued" || job.state === "running";

export function useJobs() {
  const client = useQueryClient();
  return useQuery({
    queryKey: keys.jobs,
    queryFn: async () => {
      const listed = await ask(api.GET("/api/jobs"));
      return notOlder(listed, client.getQueryData<Job[]>(keys.jobs) ?? []);
    },
    staleTime: Infinity,
  });
}

/** What is said while a trace is awaited: at the first start on a machine it waits for the tracing itself. */
export function useTracingText(): string {
  const jobs = useJobs().data ?? [];
  const preparing = jobs.find((job) => job.kind === "prepare" && isUnderWay(job));
  return preparing
    ? `Waiting until the tracing is ready (first start, ${Math.round(preparing.progress * 100)} %) …`
    : "Tracing …";
}

/** The list as it was read, but for jobs whose end was told while it was on its way. */
export function notOlder(listed: Job[], known: Job[]): Job[] {
  return listed.map((job) => later(job, known));
}

/** A job that has ended stays so: what says otherwise was read before. */
function later(job: Job, known: Job[]): Job {
  const before = known.find((each) => each.id === job.id);
  return before && !isUnderWay(before) && isUnderWay(job) ? before : job;
}

/** Every job that failed or was interrupted and that no other has taken up, however long ago. */
export function useUndoneJobs() {
  return useQuery({
    queryKey: keys.undone,
    queryFn: () => ask(api.GET("/api/jobs/undone")),
    staleTime: Infinity,
  });
}

/** Listen for as long as the app is open; a broken line is taken up again by the browser. */
export function useJobEvents(onEnd: (job: Job) => void) {
  const client = useQueryClient();
  useEffect(() => {
    const source = new EventSource("/api/jobs/events");
    source.addEventListener(
      "hello",
      () => void client.invalidateQueries({ queryKey: keys.jobs, exact: false }),
    );
    source.addEventListener("job", (event) => {
      const job = JSON.parse((event as MessageEvent<string>).data) as Job;
      const before = client.getQueryData<Job[]>(keys.jobs)?.find((known) => known.id === job.id);
      client.setQueryData<Job[]>(keys.jobs, (jobs) => withJob(jobs ?? [], job));
      refresh(client, job);
      if (!isUnderWay(job) && (!before || isUnderWay(before))) onEnd(job);
    });
    return () => source.close();
  }, [client, onEnd]);
}

/** Return the list with one job put in or replaced, newest first. */
export function withJob(jobs: Job[], job: Job): Job[] {
  const rest = jobs.filter((known) => known.id !== job.id);
  return [later(job, jobs), ...rest].sort((a, b) => b.id - a.id);
}

const SOON_MS = 200;
const due = new Map<string, ReturnType<typeof setTimeout>>();

/** Ask again, once for all that happens within a moment: hundreds of jobs may end one after the other. */
function staleSoon(client: QueryClient, queryKey: readonly unknown[]) {
  const name = JSON.stringify(queryKey);
  if (due.has(name)) return;
  const again = () => {
    due.delete(name);
    void askAgain(client, queryKey);
  };
  due.set(name, setTimeout(again, SOON_MS));
}

/** Ask anew, also for a first answer still on its way: it may have been read before the change. */
export async function askAgain(client: QueryClient, queryKey: readonly unknown[]) {
  await client.cancelQueries({ queryKey, predicate: (query) => query.state.data === undefined });
  await client.invalidateQueries({ queryKey });
}

function refresh(client: QueryClient, job: Job) {
  const stale = (queryKey: readonly unknown[]) => staleSoon(client, queryKey);
  const motifId = Number(job.params.motif_id ?? job.result.motif_id ?? 0);
  if (job.kind === "draw" || job.kind === "import") stale(keys.sketches(motifId));
  if (job.kind === "import") stale(keys.uploads(motifId));
  if (job.state !== "queued") stale(["collection"]);
  if (isUnderWay(job)) return;
  stale(keys.undone);
  if (job.kind === "clean") stale(["sketches"]);
  if (job.kind === "trace") {
    stale(["drawing", motifId]);
    stale(["verdicts"]);
    stale(keys.sketches(motifId));
  }
  if (job.kind === "mend") stale(["drawing", motifId]);
  if (job.kind === "make") stale(keys.tickets(motifId));
  if (job.kind === "pack") stale(["packs"]);
}
