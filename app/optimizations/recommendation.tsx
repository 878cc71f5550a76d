import { Link } from "react-router";
import type { Search } from "#core/optimize";
import type { Judgement, JudgedTrial } from "#server/judgement-stream";
import { Button } from "~/design/button";
import { decimal, metricText } from "~/design/format";
import { Panel } from "~/design/panel";
import { PlainTable, type PlainRow } from "~/design/plain-table";
import { columnHead } from "./trial-table";

const FIGURES = ["netProfit", "trades", "profitFactor", "maxDrawdownPercent", "profitToDrawdown", "sharpe"];

interface Props {
  judged: Judgement;
  search: Search;
  currency: string;
  address: (trial: JudgedTrial) => string;
  number: number;
}

/** The plateau's deepest trial beside the peak and the version as it stands, and what the middle costs. */
export function Recommendation({ judged, search, currency, address, number }: Props) {
  const { peak, recommended, baseline, plateau, all, inside } = judged;
  const names = search.vary.map((item) => item.name);
  const columns = [...new Set([...search.objective.map(({ metric }) => metric), ...FIGURES])];
  const trial = (key: string, name: string, one: JudgedTrial): PlainRow => ({
    key,
    strong: key === "recommended",
    cells: [
      <Link key="name" className="quiet-link" to={address(one)}>
        {name}
      </Link>,
      names.map((each) => `${each} ${Number(one.values[each].toPrecision(6))}`).join(", "),
      one.depth === null ? "–" : decimal(one.depth, 0),
      one.fragility === null ? "–" : decimal(one.fragility, 2),
      ...columns.map((metric) => metricText(metric, one.metrics[metric])),
    ],
    file: [name, JSON.stringify(one.values), one.depth, one.fragility, ...columns.map((metric) => one.metrics[metric] ?? null)],
  });
  const rows: PlainRow[] = [
    {
      key: "baseline",
      cells: ["as it stands", "", "", "", ...columns.map((metric) => metricText(metric, baseline[metric]))],
      file: ["as it stands", "", null, null, ...columns.map((metric) => baseline[metric] ?? null)],
    },
    ...(peak === null ? [] : [trial("peak", `the peak, trial ${peak.number}`, peak)]),
    ...(recommended === null ? [] : [trial("recommended", `the middle, trial ${recommended.number}`, recommended)]),
  ];
  return (
    <Panel
      flush
      title="The peak and the middle"
      note={`${decimal(inside, 0)} of ${decimal(all, 0)} trials are inside the limits`}
      aside={
        recommended !== null && (
          <Button asChild small look="quiet">
            <Link to={address(recommended)}>Try the middle</Link>
          </Button>
        )
      }
    >
      <p className="px-3.5 pb-2" data-recommended={recommended?.number ?? ""}>
        {sentence(judged, search)}
      </p>
      <PlainTable
        label="The peak and the middle"
        fileName={`optimization-${number}-recommended`}
        heads={["trial", "values", "depth", "fragility", ...columns.map((metric) => columnHead(metric, currency))]}
        words={2}
        rows={rows}
      />
      <p className="px-3.5 py-2 text-sm text-ink-soft">
        The middle is the deepest trial of the plateau, the largest region of neighbours that do well ({decimal(plateau, 0)} trials). Depth:
        steps to its edge. Fragility: what the middle one of the direct neighbours lacks of the trial’s own fit.
      </p>
    </Panel>
  );
}

/** What the recommendation comes to, in one sentence. */
function sentence({ peak, recommended, plateau }: Judgement, { objective }: Search): string {
  if (peak === null) return "No trial is inside the limits, so there is nothing to recommend.";
  if (recommended === null) return "No region does well enough to recommend anything from its middle.";
  if (recommended.number === peak.number)
    return recommended.depth !== null && recommended.depth > 1
      ? `The peak lies in the middle of the plateau, ${recommended.depth} steps from its edge.`
      : "The peak is the deepest trial there is, yet at the edge: whatever lies a step away does not belong to the plateau.";
  const [{ metric }] = objective;
  const [own, top] = [recommended.metrics[metric], peak.metrics[metric]];
  const cost =
    objective.length > 1
      ? `a fit of ${decimal(recommended.fit, 0)} instead of ${decimal(peak.fit, 0)}`
      : `${metricText(metric, own)} instead of ${metricText(metric, top)}`;
  const deep = recommended.depth === null ? "" : `, ${recommended.depth} ${recommended.depth === 1 ? "step" : "steps"} from its edge`;
  return `The middle of the plateau (${decimal(plateau, 0)} trials${deep}) gives ${cost} at the peak: that is what it costs to stand where the neighbours do well, too.`;
}
