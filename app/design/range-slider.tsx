import { Slider as RadixSlider } from "radix-ui";

interface Props {
  label: string;
  from: number;
  to: number;
  min: number;
  max: number;
  step: number;
  /** a value that is marked on the scale */
  mark?: number;
  disabled?: boolean;
  onChange: (from: number, to: number) => void;
}

/** A scale with a stretch between two handles, and a value marked on it. */
export function RangeSlider({ label, from, to, min, max, step, mark, disabled = false, onChange }: Props) {
  const at = mark === undefined || max <= min ? null : (100 * (mark - min)) / (max - min);
  return (
    <RadixSlider.Root
      value={[from, to]}
      min={min}
      max={max}
      step={step}
      minStepsBetweenThumbs={0}
      disabled={disabled || !(max > min)}
      onValueChange={([low, high]) => onChange(low, high)}
      className="relative flex h-5 w-full min-w-24 touch-none items-center select-none data-[disabled]:opacity-40"
    >
      <RadixSlider.Track className="relative h-[3px] grow rounded bg-edge">
        <RadixSlider.Range className="absolute h-full rounded bg-river" />
        {at !== null && at >= 0 && at <= 100 && (
          <span aria-hidden className="absolute -top-[5px] h-[13px] w-[2px] bg-ochre" style={{ left: `${at}%` }} title={`now ${mark}`} />
        )}
      </RadixSlider.Track>
      <RadixSlider.Thumb aria-label={`${label}, lowest`} className="block h-4 w-[7px] rounded-[2px] bg-ink" />
      <RadixSlider.Thumb aria-label={`${label}, highest`} className="block h-4 w-[7px] rounded-[2px] bg-ink" />
    </RadixSlider.Root>
  );
}
