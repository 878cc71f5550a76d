import { useCallback, useMemo } from "react";
import { useNavigate } from "react-router";
import type { OptimizationLuck } from "#server/optimization-luck";
import { ColumnsChart } from "~/charts/columns-chart";
import { TrialScatter } from "~/charts/trial-scatter";
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
  marks: { peak: number | null; middle: number | null };
  addressOf: (trial: number) => string;
}

const AXES = ["rank in the first half of the dates", "rank in the second half"] as const;
const NONE = [] as const;

/** How much of the best is luck: whether what was best in one half of the time was good in the other, and what so many trials would give without an edge. */
export function LuckPanel({ luck, asking, problems, onAsk, adaptive, number, marks, addressOf }: Props) {
  const navigate = useNavigate();
  const pick = useCallback((trial: number) => void navigate(addressOf(trial)), [navigate, addressOf]);
  const { peak, middle } = marks;
  const signs = useMemo(
    () =>
      (luck?.halves.points ?? []).flatMap((point) =>
        point.number === peak ? [{ ...point, sign: "✕" }] : point.number === middle ? [{ ...point, sign: "◎" }] : [],
      ),
    [luck, peak, middle],
  );
  return (
    <Panel
      title="How much is luck?"
      aside={
        luck === null && (
          <Button small look="quiet" disabled={asking} onClick={onAsk}>
            {asking ? "Computing trials once more …" : "Ask"}
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
              height={120}
              fileName={`optimization-${number}-lambda`}
            />
          )}
          {luck.halves.points.length > 2 && (
            <div className="mt-2" data-halves={luck.halves.correlation ?? ""}>
              <p>{halvesInWords(luck.halves.correlation)}</p>
              <TrialScatter
                label="Ranks of the trials in both halves of the dates"
                trials={luck.halves.points}
                front={NONE}
                marks={signs}
                axes={AXES}
                height={190}
                fileName={`optimization-${number}-halves`}
                onPick={pick}
                legend={<span className="whitespace-nowrap">100 is the best by Sharpe ratio · ✕ peak ◎ middle</span>}
              />
            </div>
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
            {luck.looked < luck.trials &&
              ` Of the ${decimal(luck.trials, 0)} trials ${decimal(luck.looked, 0)} were looked at, spread evenly, the peak among them.`}
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

function halvesInWords(correlation: number | null): string {
  if (correlation === null) return "Whether the same trials were good early and late can't be told: too few differ.";
  const said = `The ranks of the trials in the first half of the dates and in the second agree with a correlation of ${decimal(correlation, 2)}`;
  if (correlation > 0.5) return `${said}: what was good early was good late.`;
  if (correlation > 0.1) return `${said}: a little of what was good early was good late.`;
  return `${said}: what was good early says nothing about late.`;
}
