import { parseTimeframe, type Bars, type MarketSpec } from "#core/bars";
import { compareSources, qualityReport, type QualityReport, type SourceComparison } from "#core/quality";
import type { StreamWork } from "./jobs/protocol";

export interface QualityInput {
  timeframe: string;
  spec: MarketSpec;
  hash: string;
  /** second bars to compare with; a report on the first alone without them */
  other: string | null;
}

/** A quality report, or the comparison of two sources, in a worker thread. */
export const qualityStream: StreamWork<QualityInput, QualityReport | SourceComparison> = {
  kind: "quality",
  async stream({ timeframe, spec, hash, other }, tools) {
    const bars: Bars = await tools.bars(hash);
    const parsed = parseTimeframe(timeframe)!;
    return other === null ? qualityReport(bars, parsed, spec) : compareSources(bars, await tools.bars(other), parsed, spec.tick);
  },
};
