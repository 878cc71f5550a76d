import type { RunResult } from "#core/documents";
import { readResult } from "#core/documents";
import { recomputeMetrics } from "#core/metrics";
import { readDocument, writeOut } from "./files";

export function metricsCommand(options: { result: string; out?: string }): void {
  const result: RunResult = readDocument(options.result, readResult);
  const { metrics, kept } = recomputeMetrics(result);
  process.stderr.write(
    `${options.result}: taken over as stored, since they rest on bars that a result does not hold: ${kept.join(", ")}\n`,
  );
  writeOut(options.out, JSON.stringify(metrics) + "\n");
}
