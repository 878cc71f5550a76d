import { useEffect, useState } from "react";
import {
  unpackCurves,
  unpackLevels,
  viewEvents,
  viewOrders,
  viewTrades,
  type Curves,
  type OrderRecord,
  type RunEvent,
  type Trade,
  type TradeLevels,
} from "#core/documents";

/** The long columns of a stored run, fetched apart from its page and unpacked here. */
export interface RunPartValues {
  curves: Curves;
  trades: Trade[];
  orders: OrderRecord[];
  events: RunEvent[];
  /** null for runs that were stored before levels were */
  levels: TradeLevels | null;
}

const UNPACK: { [Part in keyof RunPartValues]: (bytes: Uint8Array) => RunPartValues[Part] } = {
  curves: unpackCurves,
  trades: viewTrades,
  orders: viewOrders,
  events: viewEvents,
  levels: unpackLevels,
};

/** As many parts stay at hand, so that a run's pages do not fetch them again from each other. */
const KEPT = 6;
const held = new Map<string, Promise<unknown>>();

async function fetched<Part extends keyof RunPartValues>(address: string, part: Part): Promise<RunPartValues[Part]> {
  const response = await fetch(address);
  if (response.status === 404 && part === "levels") return null as RunPartValues[Part];
  if (!response.ok) throw new Error(`the server answered ${response.status} for the run's ${part}`);
  return UNPACK[part](new Uint8Array(await response.arrayBuffer()));
}

function partOf<Part extends keyof RunPartValues>(address: string, part: Part): Promise<RunPartValues[Part]> {
  let known = held.get(address) as Promise<RunPartValues[Part]> | undefined;
  if (known === undefined) {
    known = fetched(address, part);
    known.catch(() => held.delete(address));
    held.set(address, known);
    if (held.size > KEPT) held.delete(held.keys().next().value!);
  }
  return known;
}

export interface PartState<T> {
  /** undefined until it is there */
  value: T | undefined;
  error: string | null;
}

/** Where a part is fetched from. The fingerprint makes it good for ever. */
export const partAddress = (run: { id: number; fingerprint: string }, part: keyof RunPartValues): string =>
  `/runs/${run.id}/part/${part}/${run.fingerprint.slice(0, 16)}`;

/** One of a stored run's long columns. */
export function useRunPart<Part extends keyof RunPartValues>(
  run: { id: number; fingerprint: string },
  part: Part,
): PartState<RunPartValues[Part]> {
  const address = partAddress(run, part);
  const [state, setState] = useState<PartState<RunPartValues[Part]> & { address: string }>({ address: "", value: undefined, error: null });
  useEffect(() => {
    let wanted = true;
    partOf(address, part).then(
      (value) => wanted && setState({ address, value, error: null }),
      (error: Error) => wanted && setState({ address, value: undefined, error: error.message }),
    );
    return () => {
      wanted = false;
    };
  }, [address, part]);
  return state.address === address ? state : { value: undefined, error: null };
}
