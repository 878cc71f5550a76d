import { Form, useFetcher } from "react-router";
import type { JobProgress } from "#server/jobs/protocol";
import { Button } from "~/design/button";
import { Select } from "~/design/field";
import { decimal, duration } from "~/design/format";

interface Props {
  job: JobProgress;
  /** threads that there are */
  width: number;
  /** the best so far, in words */
  best: { value: string; name: string };
}

/** How an optimization gets on: done, rate, time gone and left, and how much of the processor it may use. */
export function ProgressBar({ job, width, best }: Props) {
  const going = job.state === "running" || job.state === "queued";
  const open = going || job.state === "paused";
  const rate = job.rate ?? (job.done > 0 && job.elapsed > 0 ? job.done / job.elapsed : null);
  return (
    <section
      aria-label="Progress"
      className="mb-3 flex flex-wrap items-center gap-x-6 gap-y-2 rounded-[4px] border border-edge bg-sheet px-3.5 py-2.5"
    >
      <span>
        <span className="figure-text text-lg font-semibold" data-done={job.done}>
          {decimal(job.done, 0)}
        </span>{" "}
        of {decimal(job.total, 0)} trials
      </span>
      <span
        role="progressbar"
        aria-label="Trials done"
        aria-valuenow={job.done}
        aria-valuemin={0}
        aria-valuemax={job.total}
        className="block h-2 min-w-40 flex-1 bg-edge"
      >
        <span
          className={`block h-2 ${open ? "bg-ochre" : job.state === "done" ? "bg-moss" : "bg-slate"}`}
          style={{ width: `${(100 * job.done) / Math.max(1, job.total)}%` }}
        />
      </span>
      <span data-state={job.state} className={job.state === "failed" ? "text-clay" : going ? "text-ochre-ink" : ""}>
        {job.state}
      </span>
      <span>
        <b className="figure-text">{rate === null ? "–" : decimal(rate, 0)}</b> a second
      </span>
      <span>
        <b className="figure-text">{duration(job.elapsed)}</b> gone
      </span>
      {open && (
        <span>
          <b className="figure-text">{duration(job.left)}</b> left
        </span>
      )}
      <span>
        <b className="figure-text">{best.value}</b> {best.name}
      </span>
      {open && (
        <span className="flex items-center gap-2">
          <JobShare job={job} width={width} />
          <Form method="post" preventScrollReset className="flex gap-2">
            <Button small type="submit" name="intent" value={going ? "pause" : "resume"}>
              {going ? "Pause" : "Resume"}
            </Button>
            <Button small type="submit" name="intent" value="cancel">
              Cancel
            </Button>
          </Form>
        </span>
      )}
    </section>
  );
}

/** How many threads a job may use at the same time; changed while it runs. */
export function JobShare({ job, width }: { job: JobProgress; width: number }) {
  const fetcher = useFetcher();
  const said = fetcher.formData?.get("threads");
  const value = said === undefined || said === null ? String(job.threads ?? width) : String(said);
  return (
    <Select
      hideLabel
      className="w-44"
      label={`Share of the processor, ${job.title}`}
      value={value}
      choices={Array.from({ length: width }, (_, k) => {
        const threads = width - k;
        return {
          value: String(threads),
          label: threads === width ? `all ${width} threads` : `${threads} of ${width} ${threads === 1 ? "thread" : "threads"}`,
        };
      })}
      onChange={(threads) => void fetcher.submit({ job: String(job.id), threads }, { method: "post", action: "/jobs" })}
    />
  );
}
