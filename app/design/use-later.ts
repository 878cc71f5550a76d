import { useEffect, useState } from "react";

/** A value that follows another once what rests on that one has been drawn; null until then the first time. */
export function useLater<T>(value: T): T | null {
  const [held, setHeld] = useState<T | null>(null);
  useEffect(() => {
    const timer = setTimeout(() => setHeld(value), 80);
    return () => clearTimeout(timer);
  }, [value]);
  return held;
}
