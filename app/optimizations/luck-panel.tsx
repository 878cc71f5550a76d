import type { OptimizationLuck } from "#server/optimization-luck";
import { ColumnsChart } from "~/charts/columns-chart";
import { Button } from "~/design/button";
import { decimal, signed } from "~/design/format";
import { Panel, Problems } from "~/design/panel";

interface Props {
  luck: OptimizationLuck | null;
  asking: boolean;
  problems: readonly { path: string; message: string }[];
  onAsk: () => void;
  /** whether the method chose its trials by what it had seen */
  adaptive: boolean;
  number: number;
}

/** How much of the best is luck: whether what was best in one half of the time was good in the other, and what so many trials would give without an edge. */
export function LuckPanel({ luck, asking, problems, onAsk, adaptive, number }: Props) {
  return (
    <Panel
      title="How much is luck?"
      aside={
        luck === null && (
          <Button small look="quiet" disabled={asking} onClick={onAsk}>
            {asking ? "Computing every trial once more …" : "Ask"}
          </Button>
        )
      }
    >
      <Problems problems={problems} title="This can't be told" />
      {luck === null ? (
        <p className="text-ink-soft">
          Every trial is computed once more for its daily returns. They are cut into sixteen blocks; for each of the 12,870 ways to take
          half of them, the best on that half is looked at on the other.
        </p>
      ) : (
        <>
          <p data-pbo={luck.pbo ?? ""}>{inWords(luck.pbo)}</p>
          {luck.pbo !== null && (
            <ColumnsChart
              label="λ: how the best of one half stood in the other (below 0: in the worse half)"
              names={luck.histogram.map((bin) => signed((bin.from + bin.to) / 2, 1))}
              values={luck.histogram.map((bin) => bin.count)}
              height={140}
              fileName={`optimization-${number}-lambda`}
            />
          )}
          <p className="mt-2">
            {luck.deflated.own === null
              ? "The peak has no deflated Sharpe ratio: too few trials have a Sharpe ratio."
              : `The deflated Sharpe ratio of the peak is ${decimal(100 * luck.deflated.own, 1)} % against the ${decimal(luck.deflated.trials, 0)} trials made here, and ${decimal(100 * luck.deflated.line!, 1)} % against all ${decimal(luck.deflated.ledger, 0)} that were spent on this line.`}
          </p>
          {luck.leaders.length > 0 && (
            <p className="mt-1 text-sm text-ink-soft">
              Most often the best of a half:{" "}
              {luck.leaders.map(({ number: trial, share }) => `trial ${trial} (${decimal(100 * share, 0)} %)`).join(", ")}.
            </p>
          )}
          <p className="mt-1 text-sm text-ink-soft">
            It ranks by the Sharpe ratio whatever the objective is, and its spread on mere noise is wide
            {adaptive ? "; this method chose its trials by what it had seen, so that it is a guide only" : ""}.
          </p>
        </>
      )}
    </Panel>
  );
}

function inWords(pbo: number | null): string {
  if (pbo === null) return "There are too few dates, or too few different trials, to tell.";
  const share = `In ${decimal(100 * pbo, 0)} % of all ways to cut the time in half, what was best in one half was in the worse half of the trials in the other`;
  if (pbo < 0.2) return `${share}: choosing the best chooses something.`;
  if (pbo < 0.5) return `${share}: choosing the best chooses something, and luck with it.`;
  return `${share}: choosing the best here is no better than drawing one.`;
}
