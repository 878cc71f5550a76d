import { useCallback } from "react";
import { useSearchParams } from "react-router";

/** State that lives in the address. `set` writes one key (null takes it out); `also` are keys that go with its change. */
export function useAddress(): {
  params: URLSearchParams;
  set: (key: string, value: string | null, also?: readonly string[]) => void;
} {
  const [params, setParams] = useSearchParams();
  const set = useCallback(
    (key: string, value: string | null, also: readonly string[] = []) =>
      setParams(
        () => {
          // the address itself, not what was drawn last: two quick changes must not undo each other
          const next = new URLSearchParams(window.location.search);
          if (value === null) next.delete(key);
          else next.set(key, value);
          for (const other of also) next.delete(other);
          return next;
        },
        { replace: true, preventScrollReset: true },
      ),
    [setParams],
  );
  return { params, set };
}
