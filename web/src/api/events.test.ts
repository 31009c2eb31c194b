import { QueryClient, QueryObserver } from "@tanstack/react-query";
import { expect, it } from "vitest";
import type { Job } from "./client";
import { askAgain, isUnderWay, notOlder, withJob } from "./events";

const job = (id: number, state: string, progress = 0) => ({ id, state, progress }) as Job;

it("puts a new job first and replaces a known one in place", () => {
  const jobs = [job(3, "running"), job(1, "done")];
  expect(withJob(jobs, job(4, "queued")).map((each) => each.id)).toEqual([4, 3, 1]);
  const changed = withJob(jobs, job(3, "running", 0.5));
  expect(changed.map((each) => [each.id, each.progress])).toEqual([
    [3, 0.5],
    [1, 0],
  ]);
  expect(jobs[0]?.progress).toBe(0);
});

it("knows what is under way", () => {
  const states = ["queued", "running", "done", "failed", "interrupted", "cancelled"];
  expect(states.filter((state) => isUnderWay(job(1, state)))).toEqual(["queued", "running"]);
});

it("never takes a job that has ended for one under way", () => {
  const known = [job(3, "done", 1), job(2, "running", 0.2)];
  expect(withJob(known, job(3, "running", 1)).map((each) => each.state)).toEqual(["done", "running"]);
  const read = notOlder([job(4, "queued"), job(3, "running", 1), job(2, "running", 0.4)], known);
  expect(read.map((each) => [each.state, each.progress])).toEqual([
    ["queued", 0],
    ["done", 1],
    ["running", 0.4],
  ]);
});

it("asks again although a first answer is still on its way", async () => {
  const client = new QueryClient();
  const answers: ((found: string[]) => void)[] = [];
  const queryKey = ["sketches", 2];
  const seen = new QueryObserver(client, {
    queryKey,
    queryFn: () => new Promise<string[]>((resolve) => answers.push(resolve)),
  });
  const leave = seen.subscribe(() => undefined);
  expect(answers).toHaveLength(1);
  const asked = askAgain(client, queryKey);
  answers[0]?.([]);
  await expect.poll(() => answers.length).toBe(2);
  answers[1]?.(["a rose"]);
  await asked;
  expect(client.getQueryData(queryKey)).toEqual(["a rose"]);
  leave();
});
