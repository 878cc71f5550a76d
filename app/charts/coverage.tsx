import { useEffect, useRef } from "react";
import { dateText, decimal } from "~/design/format";
import { readColours } from "./colours";

const MONTHS = 12;
const DAY = 86_400_000;

/** Coverage by day: a row a year, a thin stroke a session date; full days are pale, missing ones stand out as dark gaps. */
export function Coverage({
  dates,
  shares,
  selected,
}: {
  dates: readonly number[];
  shares: readonly number[];
  selected: { from: number; to: number } | null;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const first = dates.length === 0 ? 1970 : new Date(dates[0] * DAY).getUTCFullYear();
  const last = dates.length === 0 ? 1970 : new Date(dates[dates.length - 1] * DAY).getUTCFullYear();
  const years = last - first + 1;
  const rowHeight = Math.max(7, Math.min(16, Math.floor(260 / years)));
  const missing = shares.filter((share) => share === 0).length;
  const partial = shares.filter((share) => share > 0 && share < 0.98).length;
  const height = years * rowHeight + 16;

  useEffect(() => {
    const draw = () => {
      const target = canvas.current;
      if (target === null) return;
      const colours = readColours();
      const ratio = window.devicePixelRatio || 1;
      const width = target.clientWidth;
      target.width = width * ratio;
      target.height = height * ratio;
      const ctx = target.getContext("2d")!;
      ctx.scale(ratio, ratio);
      const left = 38;
      const perDay = (width - left) / 366;
      ctx.font = "11px Figtree Variable";
      ctx.fillStyle = colours.inkSoft;
      for (let year = first; year <= last; year++)
        if (years <= 14 || (year - first) % 2 === 0) ctx.fillText(String(year), 0, 16 + (year - first) * rowHeight + rowHeight - 3);
      for (let month = 0; month < MONTHS; month++)
        ctx.fillText(
          ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"][month],
          left + (perDay * 366 * month) / 12,
          10,
        );
      dates.forEach((date, i) => {
        const time = date * DAY;
        const year = new Date(time).getUTCFullYear();
        const place = (time - Date.UTC(year, 0, 1)) / DAY;
        const x = left + place * perDay;
        const y = 16 + (year - first) * rowHeight;
        const share = shares[i];
        if (share >= 0.98) {
          ctx.fillStyle = colours.edge;
          ctx.fillRect(x, y + 1, Math.max(1, perDay), rowHeight - 2);
        } else if (share === 0) {
          ctx.fillStyle = colours.clay;
          ctx.fillRect(x - 0.5, y, Math.max(2, perDay), rowHeight);
        } else {
          ctx.fillStyle = colours.edge;
          ctx.fillRect(x, y + 1, Math.max(1, perDay), rowHeight - 2);
          ctx.fillStyle = colours.ochre;
          const tall = Math.max(2, (rowHeight - 2) * (1 - share));
          ctx.fillRect(x, y + 1, Math.max(1.5, perDay), tall);
        }
        if (selected !== null && time >= selected.from - DAY && time <= selected.to) {
          ctx.fillStyle = colours.ink;
          ctx.fillRect(x, y + rowHeight - 1.5, Math.max(1.5, perDay), 1.5);
        }
      });
    };
    draw();
    const watch = new MutationObserver(draw);
    watch.observe(document.documentElement, { attributes: true, attributeFilter: ["data-theme"] });
    window.addEventListener("resize", draw);
    return () => {
      watch.disconnect();
      window.removeEventListener("resize", draw);
    };
  }, [dates, shares, selected, first, last, years, rowHeight, height]);

  if (dates.length === 0) return <p className="text-ink-soft">Weekly and monthly bars have no calendar to be checked against.</p>;
  return (
    <figure className="m-0">
      <canvas
        ref={canvas}
        role="img"
        style={{ width: "100%", height }}
        aria-label={`Coverage from ${dateText(dates[0] * DAY)} to ${dateText(dates[dates.length - 1] * DAY)}: ${decimal(missing, 0)} of ${decimal(dates.length, 0)} sessions are missing, ${decimal(partial, 0)} are there in part`}
      />
      <figcaption className="flex gap-4 text-xs text-ink-soft">
        <span>pale: complete</span>
        <span className="text-ochre-ink">ochre from above: the share that is missing</span>
        <span className="text-clay">clay, full height: the whole session is missing</span>
      </figcaption>
    </figure>
  );
}
