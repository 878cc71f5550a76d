import type { StopLevel } from "#core/reading";
import { decimal, signed } from "~/design/format";
import { Panel } from "~/design/panel";
import { PlainTable } from "~/design/plain-table";

/** What a stop at other distances would have made of the trades. */
export function StopLadder({ ladder, total, run }: { ladder: readonly StopLevel[]; total: number; run: number }) {
  return (
    <Panel
      flush
      title="With a stop at another distance"
      note="a look and not a backtest: without gaps, costs of the exit, and the trades that would have come instead"
    >
      <PlainTable
        label="With a stop at another distance"
        fileName={`run-${run}-stops`}
        heads={["stop at, %", "trades stopped", "saved, %", "cost, %", "sum of the results, %"]}
        rows={[
          { key: "now", strong: true, cells: ["as it was", "", "", "", signed(total, 1)], file: ["", "", "", "", total] },
          ...ladder.map((level) => ({
            key: level.distance,
            cells: [
              decimal(level.distance, 2),
              decimal(level.stopped, 0),
              decimal(level.saved, 1),
              decimal(level.cost, 1),
              signed(level.total, 1),
            ],
            file: [level.distance, level.stopped, level.saved, level.cost, level.total],
          })),
        ]}
      />
    </Panel>
  );
}
