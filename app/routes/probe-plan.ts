import { isRefused } from "#server/problem";
import type { Route } from "./+types/probe-plan";

/** A probe as the open document that the command line reads. */
export async function loader({ context, params }: Route.LoaderArgs) {
  try {
    const plan = await context.services.probes.plan(Number(params.id));
    return new Response(JSON.stringify(plan, null, 2), {
      headers: { "Content-Type": "application/json", "Content-Disposition": `attachment; filename="probe-${params.id}.json"` },
    });
  } catch (error) {
    if (isRefused(error)) throw new Response(error.message, { status: error.status });
    throw error;
  }
}
