import { useEffect } from "react";
import { Link, useFetcher, useRevalidator } from "react-router";
import type { JobProgress } from "#server/jobs/protocol";
import { decimal, duration } from "~/design/format";

export interface RunningJob extends JobProgress {
  to: string;
}

/** What is running, asked for every second while anything is, every five seconds else. */
export function useJobs(): RunningJob[] {
  const fetcher = useFetcher<RunningJob[]>({ key: "jobs" });
  const jobs = fetcher.data ?? [];
  const busy = jobs.length > 0;
  const { load, state } = fetcher;
  useEffect(() => {
    if (state !== "idle") return;
    const timer = setTimeout(() => void load("/api/jobs"), fetcher.data === undefined ? 0 : busy ? 1000 : 5000);
    return () => clearTimeout(timer);
  }, [load, state, busy, fetcher.data]);
  return jobs;
}

/**
 * Loads the page's data again every so often while `on`. The next turn waits for the load before, not for a state that was
 * drawn: on a busy machine "loading" and "idle" are drawn as one, and whoever waits to see a change would wait for ever.
 */
export function useRefresh(on: boolean, milliseconds: number): void {
  const { revalidate } = useRevalidator();
  useEffect(() => {
    if (!on) return;
    let timer: ReturnType<typeof setTimeout> | null = null;
    const again = () => {
      timer = setTimeout(() => {
        if (timer !== null) void revalidate().finally(() => timer !== null && again());
      }, milliseconds);
    };
    again();
    return () => {
      clearTimeout(timer!);
      timer = null;
    };
  }, [on, milliseconds, revalidate]);
}

/** The rim's foot: what is running, with its progress. */
export function JobsFoot({ jobs, narrow }: { jobs: readonly RunningJob[]; narrow: boolean }) {
  if (jobs.length === 0) return null;
  // what is at work goes before what waits for somebody
  const job = jobs.find((one) => one.state !== "paused") ?? jobs[0];
  const share = (100 * job.done) / Math.max(1, job.total);
  return (
    <Link
      to={jobs.length > 1 ? "/jobs" : job.to}
      className="block px-4.5 pb-3 text-sm no-underline"
      aria-label={narrow ? `${jobs.length} running: ${job.title}, ${Math.floor(share)} percent` : undefined}
    >
      {!narrow && (
        <>
          <p className="font-semibold">
            {jobs.length} {jobs.length === 1 ? "job" : "jobs"} {job.state === "paused" ? "paused" : "running"}
          </p>
          <p className="truncate text-ink-soft">{job.kind === "optimization" ? `Optimization, ${job.title}` : job.title}</p>
        </>
      )}
      <span
        role="progressbar"
        aria-label={job.title}
        aria-valuenow={Math.floor(share)}
        aria-valuemin={0}
        aria-valuemax={100}
        className="mt-1 block h-1 bg-edge"
      >
        <span className="block h-1 bg-ochre" style={{ width: `${share}%` }} />
      </span>
      {!narrow && (
        <p className="mt-1 flex justify-between text-xs text-ink-soft">
          <span>{job.kind === "import" ? `${Math.floor(share)} %` : `${decimal(job.done, 0)} of ${decimal(job.total, 0)}`}</span>
          <span>{job.left === null ? "" : `${duration(job.left)} left`}</span>
        </p>
      )}
    </Link>
  );
}
