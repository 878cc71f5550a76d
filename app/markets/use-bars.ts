import { useEffect, useState } from "react";
import { decodeBars, type Bars } from "#core/bars";

const loaded = new Map<string, Promise<Bars>>();

/** Bars by their hash, from the browser's cache or the server. */
export function loadBars(hash: string): Promise<Bars> {
  let known = loaded.get(hash);
  if (known === undefined) {
    known = fetch(`/bars/${hash}`).then(async (response) => {
      if (!response.ok) throw new Error(`The bars could not be loaded (${response.status}).`);
      return decodeBars(new Uint8Array(await response.arrayBuffer()));
    });
    known.catch(() => loaded.delete(hash));
    loaded.set(hash, known);
  }
  return known;
}

/** Bars by hash as a component needs them: null while they load, or an error's text. */
export function useBars(hash: string | null): { bars: Bars | null; error: string | null } {
  const [state, setState] = useState<{ hash: string | null; bars: Bars | null; error: string | null }>({
    hash: null,
    bars: null,
    error: null,
  });
  useEffect(() => {
    if (hash === null) return;
    let wanted = true;
    loadBars(hash).then(
      (bars) => wanted && setState({ hash, bars, error: null }),
      (error: Error) => wanted && setState({ hash, bars: null, error: error.message }),
    );
    return () => {
      wanted = false;
    };
  }, [hash]);
  return state.hash === hash ? state : { bars: null, error: null };
}
