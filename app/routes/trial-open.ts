import { redirect } from "react-router";
import { trialAddress } from "~/optimizations/trial-address";
import type { Route } from "./+types/trial-open";

/** Opens a trial as a backtest: its values on the version that was optimized, on the same dates and market. */
export async function loader({ context, params }: Route.LoaderArgs) {
  const { optimizations, trials } = context.services;
  const view = await optimizations.get(Number(params.id));
  const trial = view === null ? null : await trials.one(view, Number(params.trial));
  if (view === null || trial === null) throw new Response("There is no such trial.", { status: 404 });
  return redirect(trialAddress(view, trial.values, trial.number));
}
