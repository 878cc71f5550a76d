import type { JobProgress } from "./jobs/protocol";
import type { Services } from "./services";

/** Where each job is looked at: a function of the job, from what the services know now. */
export async function jobPlaces(services: Services): Promise<(job: JobProgress) => string> {
  const [optimizations, imports, studies, probes] = await Promise.all([
    services.optimizations.list(),
    services.imports.recent(),
    services.studies.owners(),
    services.probes.owners(),
  ]);
  return (job) => {
    if (job.kind === "update") return "/markets";
    const file = imports.find((view) => view.job.id === job.id);
    if (file) return `/imports/${file.id}`;
    const probe = probes.get(job.id);
    if (probe !== undefined) return `/strategies/${probe.strategyId}/evidence?v=${probe.number}&probe=${probe.probe}`;
    const owner = optimizations.find((view) => view.job.id === job.id)?.id ?? studies.get(job.id);
    return owner === undefined ? "/optimizations" : `/optimizations/${owner}`;
  };
}
