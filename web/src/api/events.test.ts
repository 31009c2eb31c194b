import { expect, it } from "vitest";
import type { Job } from "./client";
import { isUnderWay, withJob } from "./events";

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
