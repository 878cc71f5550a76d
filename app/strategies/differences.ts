import type { Strategy } from "#core/documents";

export interface Difference {
  what: string;
  before: string;
  now: string;
}

/** Every value of a strategy by a readable path; parameters and definitions by their names. */
function flat(strategy: Strategy): Map<string, string> {
  const out = new Map<string, string>();
  const put = (path: string, value: unknown): void => {
    if (value === undefined || value === null) return;
    if (Array.isArray(value))
      value.forEach((item, i) =>
        put(`${path} ${(item as { name?: string; label?: string }).name ?? (item as { label?: string }).label ?? i + 1}`, item),
      );
    else if (typeof value === "object")
      for (const [key, inner] of Object.entries(value))
        put(path === "" ? key : key === "name" || key === "when" || key === "value" ? path : `${path} ${key}`, inner);
    else if (out.has(path)) out.set(`${path} `, String(value));
    else out.set(path, String(value));
  };
  const { format: _format, name, notes, ...rest } = strategy;
  if (name) out.set("name", name);
  if (notes) out.set("notes", notes);
  for (const [key, value] of Object.entries(rest)) {
    if (key === "parameters" || key === "definitions")
      for (const item of value as { name: string }[]) {
        const { name: own, ...inner } = item;
        for (const [part, x] of Object.entries(inner)) put(part === "value" || part === "rule" ? own : `${own} ${part}`, x);
      }
    else put(key, value);
  }
  return out;
}

/** What changed from one strategy to another, in the order of the later one. */
export function differences(before: Strategy, now: Strategy): Difference[] {
  const [old, next] = [flat(before), flat(now)];
  return [...new Set([...next.keys(), ...old.keys()])]
    .filter((what) => old.get(what) !== next.get(what))
    .map((what) => ({ what: what.trim(), before: old.get(what) ?? "nothing", now: next.get(what) ?? "nothing" }));
}
