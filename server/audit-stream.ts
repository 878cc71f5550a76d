import type { Settings, Strategy } from "#core/documents";
import { auditLookAhead, type AuditOutcome } from "#core/runs";
import type { StreamWork } from "./jobs/protocol";

/** The audit for looking ahead, in a worker thread. */
export const auditStream: StreamWork<{ strategy: Strategy; settings: Settings }, AuditOutcome> = {
  kind: "audit",
  async stream({ strategy, settings }, tools) {
    const bars = [];
    for (const market of settings.markets) bars.push(await tools.bars(market.bars));
    return auditLookAhead(strategy, settings, bars);
  },
};
