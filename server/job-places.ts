import type { JobProgress } from "./jobs/protocol";
import type { Services } from "./services";

/** Where each job is looked at: a function of the job, from what the services know now. */
export async function jobPlaces(services: Services): Promise<(job: JobProgress) => string> {
  const [optimizations, imports, studies] = await Promise.all([
    services.optimizations.list(),
    services.imports.recent(),
    services.studies.owners(),
  ]);
  return (job) => {
    if (job.kind === "update") return "/markets";
    const file = imports.find((view) => view.job.id === job.id);
    if (file) return `/imports/${file.id}`;
    const owner = optimizations.find((view) => view.job.id === job.id)?.id ?? studies.get(job.id);
    return owner === undefined ? "/optimizations" : `/optimizations/${owner}`;
  };
}
