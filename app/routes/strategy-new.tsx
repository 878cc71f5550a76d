import { data } from "react-router";
import type { Strategy } from "#core/documents";
import { isRefused } from "#server/problem";
import { PageHead } from "~/design/panel";
import { Workbench, type SaveAnswer } from "~/strategies/workbench";
import type { Route } from "./+types/strategy-new";

export const meta: Route.MetaFunction = () => [{ title: "New strategy · Canyon" }];
export const handle = {
  keys: [
    { keys: "Ctrl S", what: "save" },
    { keys: "Ctrl Z", what: "undo; with Shift, redo" },
    { keys: "Ctrl Space", what: "complete a name in a rule" },
  ],
};

export async function loader({ context }: Route.LoaderArgs) {
  return { markets: await context.services.markets.list() };
}

export async function action({ context, request }: Route.ActionArgs) {
  const form = await request.formData();
  try {
    const version = await context.services.strategies.create(
      JSON.parse(String(form.get("document"))),
      "",
      JSON.parse(String(form.get("settings"))),
    );
    return {
      saved: { strategyId: version.strategyId, number: version.number },
      run: null,
      conflict: false,
      problems: [],
    } satisfies SaveAnswer;
  } catch (error) {
    if (isRefused(error))
      return data({ saved: null, run: null, conflict: false, problems: error.problems } satisfies SaveAnswer, { status: error.status });
    throw error;
  }
}

const BLANK: Strategy = {
  format: "canyon.strategy/1",
  name: "",
  timeframe: "1d",
  parameters: [],
  protect: { stop: { unit: "atr", value: 3, period: 20 } },
  sizing: { mode: "riskPercent", value: 1 },
};

export default function NewStrategyPage({ loaderData: { markets } }: Route.ComponentProps) {
  return (
    <Workbench
      saved={BLANK}
      start={BLANK}
      version={null}
      markets={markets}
      lastSettings={null}
      head={(actions) => (
        <PageHead title="New strategy" about="Write a rule to enter; its result appears while you type." actions={actions} />
      )}
    />
  );
}
