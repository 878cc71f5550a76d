/** The theme's colours as a canvas needs them. */
export interface Colours {
  paper: string;
  sheet: string;
  edge: string;
  ink: string;
  inkSoft: string;
  inkFaint: string;
  river: string;
  clay: string;
  ochre: string;
  plum: string;
  moss: string;
  slate: string;
  shade: string;
  tintIn: string;
}

/** Reads the colours of the theme that is on now. */
export function readColours(): Colours {
  const style = getComputedStyle(document.documentElement);
  const read = (name: string) => style.getPropertyValue(`--${name}`).trim();
  return {
    paper: read("paper"),
    sheet: read("sheet"),
    edge: read("edge"),
    ink: read("ink"),
    inkSoft: read("ink-soft"),
    inkFaint: read("ink-faint"),
    river: read("river"),
    clay: read("clay"),
    ochre: read("ochre"),
    plum: read("plum"),
    moss: read("moss"),
    slate: read("slate"),
    shade: read("shade"),
    tintIn: read("tint-in"),
  };
}

/** A `#rrggbb` colour with an opacity. */
export function faded(hex: string, opacity: number): string {
  const n = parseInt(hex.slice(1), 16);
  return `rgba(${n >> 16}, ${(n >> 8) & 255}, ${n & 255}, ${opacity})`;
}
