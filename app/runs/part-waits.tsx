import { useEffect } from "react";
import { Problems } from "~/design/panel";
import { partAddress, type PartState, type RunPartValues } from "./use-part";

/** What stands in the place of a run's columns until they are there, or why they will not be. */
export function PartWaits({ parts, what, height = 200 }: { parts: readonly PartState<unknown>[]; what: string; height?: number }) {
  // what draws the charts is fetched meanwhile
  useEffect(() => void import("~/charts/setup"), []);
  const error = parts.find((part) => part.error !== null)?.error;
  if (error)
    return <Problems problems={[{ path: "", message: `${error}; load the page again to try once more` }]} title="This can't be shown" />;
  return (
    <p className="grid place-items-center text-ink-soft" style={{ height }} role="status">
      Reading {what} …
    </p>
  );
}

/** Has the browser fetch a run's columns while it still reads the page. */
export function PartsAhead({ run, parts }: { run: { id: number; fingerprint: string }; parts: readonly (keyof RunPartValues)[] }) {
  return parts.map((part) => <link key={part} rel="preload" as="fetch" crossOrigin="anonymous" href={partAddress(run, part)} />);
}
