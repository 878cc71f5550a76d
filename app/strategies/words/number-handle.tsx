import { useEffect, useRef, useState, type PointerEvent } from "react";

/** A number in a sentence: typed, moved with the arrow keys, or dragged sideways. */
export function NumberHandle({ label, value, onChange }: { label: string; value: number; onChange: (value: number) => void }) {
  const [text, setText] = useState(String(value));
  const drag = useRef<{ x: number; from: number; moved: boolean } | null>(null);
  useEffect(() => setText((before) => (Number(before) === value ? before : String(value))), [value]);
  const step = Number.isInteger(value) ? 1 : 0.1;
  const set = (next: number) => onChange(Number(Math.max(0, next).toFixed(6)));
  const down = (event: PointerEvent<HTMLInputElement>) => {
    drag.current = { x: event.clientX, from: value, moved: false };
    event.currentTarget.setPointerCapture(event.pointerId);
  };
  const move = (event: PointerEvent<HTMLInputElement>) => {
    const held = drag.current;
    if (held === null) return;
    const steps = Math.round((event.clientX - held.x) / 6);
    if (steps === 0 && !held.moved) return;
    held.moved = true;
    set(held.from + steps * step);
  };
  const up = (event: PointerEvent<HTMLInputElement>) => {
    if (drag.current?.moved) event.currentTarget.blur();
    drag.current = null;
  };
  return (
    <input
      aria-label={label}
      inputMode="decimal"
      value={text}
      title="type, drag sideways, or use the arrow keys"
      onChange={(event) => {
        setText(event.target.value);
        const next = Number(event.target.value.replace(",", "."));
        if (event.target.value.trim() !== "" && Number.isFinite(next) && next >= 0) onChange(next);
      }}
      onBlur={() => setText(String(value))}
      onKeyDown={(event) => {
        if (event.key !== "ArrowUp" && event.key !== "ArrowDown") return;
        event.preventDefault();
        set(value + (event.key === "ArrowUp" ? 1 : -1) * step * (event.shiftKey ? 10 : 1));
      }}
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={up}
      style={{ width: `${Math.max(1, text.length) + 0.6}ch` }}
      className="figure-text cursor-ew-resize border-b-2 border-ochre bg-transparent text-center focus:cursor-text"
    />
  );
}
