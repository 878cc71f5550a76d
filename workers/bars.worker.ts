import { MarketCalendar, parseTimeframe } from "#core/bars";
import { checkRule, ColumnStore } from "#core/rules";
import { detailLevels, sharedBars } from "./detail";
import { fetchBars } from "./fetch-bars";
import type { BarsAnswer, BarsRequest } from "./protocol";

/** Loads bars, prepares them for drawing at any zoom, and computes formulas on them, all beside the page's own thread. */
self.onmessage = async (event: MessageEvent<BarsRequest>) => {
  const request = event.data;
  const answer = (more: BarsAnswer) => self.postMessage(more);
  try {
    const bars = await fetchBars(request.hash);
    if (request.what === "load") return answer({ id: request.id, what: "load", bars: sharedBars(bars), levels: detailLevels(bars) });
    const parameters = new Map();
    const checked = checkRule(request.rule, {
      parameters,
      definitions: new Map(),
      values: {},
      known: Object.keys(request.series),
      markets: [],
    });
    const [problem] = checked.problems;
    const timeframe = parseTimeframe(request.timeframe);
    if (checked.formula === null || timeframe === null)
      return answer({
        id: request.id,
        what: "formula",
        column: null,
        yesNo: false,
        problem: problem?.message ?? "the formula can't be read",
      });
    const calendar = new MarketCalendar(request.session);
    const column = new ColumnStore(bars, undefined, request.series, { calendar, timeframe }).column(checked.formula, {});
    answer({ id: request.id, what: "formula", column: Float64Array.from(column), yesNo: column instanceof Uint8Array, problem: null });
  } catch (error) {
    answer({ id: request.id, what: "failed", message: error instanceof Error ? error.message : String(error) });
  }
};
