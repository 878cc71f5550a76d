import { ArrowDown, ArrowUp } from "lucide-react";
import { data, Form, Link } from "react-router";
import { isRefused, refuse } from "#server/problem";
import { Button } from "~/design/button";
import { decimal, duration } from "~/design/format";
import { Empty, PageHead, Problems } from "~/design/panel";
import { JobShare } from "~/optimizations/progress-bar";
import { useRefresh } from "~/shell/jobs";
import { jobPlaces } from "#server/job-places";
import type { Route } from "./+types/jobs";

export const meta: Route.MetaFunction = () => [{ title: "Work · Canyon" }];

export async function loader({ context }: Route.LoaderArgs) {
  const { services } = context;
  const [jobs, places] = await Promise.all([services.jobs.progress(), jobPlaces(services)]);
  const rank: Record<string, number> = { running: 0, queued: 1, paused: 2 };
  return {
    width: services.jobs.width,
    jobs: jobs
      .map((job) => ({ ...job, to: places(job) }))
      .sort((a, b) => rank[a.state] - rank[b.state] || b.priority - a.priority || a.id - b.id),
  };
}

/** Pauses, resumes and cancels jobs, and says in which order and with how much of the processor they run. */
export async function action({ context, request }: Route.ActionArgs) {
  const { jobs } = context.services;
  const form = await request.formData();
  try {
    const id = Number(form.get("job"));
    const [job] = Number.isInteger(id) ? await jobs.progress([id]) : [];
    if (job === undefined) return refuse("job", "there is no such work", 404);
    const threads = form.get("threads");
    if (threads !== null) {
      const count = Number(threads);
      if (!Number.isInteger(count) || count < 1) return refuse("threads", "the number of threads must be a whole number from 1 on");
      await jobs.setThreads(id, count >= jobs.width ? null : count);
    }
    const intent = form.get("intent");
    if (intent === "pause") await jobs.pause(id);
    if (intent === "resume") await jobs.resume(id);
    if (intent === "cancel") await jobs.cancel(id);
    if (intent === "sooner" || intent === "later") await jobs.setPriority(id, job.priority + (intent === "sooner" ? 1 : -1));
    return { problems: [] };
  } catch (error) {
    if (isRefused(error)) return data({ problems: error.problems }, { status: error.status });
    throw error;
  }
}

/** What is at work and what waits, in the order in which it will run. */
export default function JobsPage({ loaderData: { jobs, width }, actionData }: Route.ComponentProps) {
  useRefresh(jobs.length > 0, 1000);
  return (
    <>
      <PageHead
        title="Work"
        about="What runs and what waits. A job of a higher priority goes first: one at work stops for it, and goes on afterwards."
      />
      <Problems problems={actionData?.problems ?? []} />
      {jobs.length === 0 ? (
        <Empty
          title="Nothing is running"
          action={
            <Button asChild look="primary">
              <Link to="/optimizations/new">New optimization</Link>
            </Button>
          }
        >
          Optimizations, imports and updates stand here while they are at work. They go on when this page is closed, and after a restart of
          the server.
        </Empty>
      ) : (
        <div className="overflow-x-auto rounded-[4px] border border-edge bg-sheet">
          <table className="w-full border-collapse" aria-label="Work">
            <thead className="text-sm text-ink-soft">
              <tr>
                {["work", "state", "done", "a second", "left", "priority", "processor", ""].map((head, i) => (
                  <th key={head} scope="col" className={`px-3 py-2 font-normal ${i >= 2 && i <= 5 ? "text-right" : "text-left"}`}>
                    {head === "" ? <span className="sr-only">stop or go on</span> : head}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {jobs.map((job) => (
                <tr key={job.id} className="border-t border-edge" data-job={job.id}>
                  <th scope="row" className="px-3 py-2 text-left">
                    <Link to={job.to} className="no-underline hover:underline">
                      {job.title}
                    </Link>
                    <span className="block text-sm font-normal text-ink-soft">{KINDS[job.kind] ?? job.kind}</span>
                  </th>
                  <td className={`px-3 ${job.state === "running" ? "text-ochre-ink" : ""}`}>{job.state}</td>
                  <td className="figure-text px-3 text-right whitespace-nowrap">
                    {decimal(job.done, 0)} of {decimal(job.total, 0)}
                  </td>
                  <td className="figure-text px-3 text-right">{job.rate === null ? "–" : decimal(job.rate, job.rate < 10 ? 1 : 0)}</td>
                  <td className="figure-text px-3 text-right">{duration(job.left)}</td>
                  <td className="px-3 text-right">
                    <Form method="post" className="inline-flex items-center gap-1" preventScrollReset>
                      <input type="hidden" name="job" value={job.id} />
                      <span className="figure-text" data-priority={job.priority}>
                        {job.priority}
                      </span>
                      <button name="intent" value="sooner" aria-label={`${job.title}: sooner`} className="rounded p-0.5 hover:bg-shade">
                        <ArrowUp size={14} aria-hidden />
                      </button>
                      <button name="intent" value="later" aria-label={`${job.title}: later`} className="rounded p-0.5 hover:bg-shade">
                        <ArrowDown size={14} aria-hidden />
                      </button>
                    </Form>
                  </td>
                  <td className="px-3 py-1.5">
                    <JobShare job={job} width={width} />
                  </td>
                  <td className="px-3">
                    <Form method="post" className="flex justify-end gap-2" preventScrollReset>
                      <input type="hidden" name="job" value={job.id} />
                      <Button small look="quiet" type="submit" name="intent" value={job.state === "paused" ? "resume" : "pause"}>
                        {job.state === "paused" ? "Resume" : "Pause"}
                      </Button>
                      <Button small look="quiet" type="submit" name="intent" value="cancel">
                        Cancel
                      </Button>
                    </Form>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </>
  );
}

const KINDS: Record<string, string> = {
  optimization: "optimization",
  permuted: "optimization on permuted bars",
  import: "import",
  update: "update of bars",
};
