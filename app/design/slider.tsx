import { Slider as RadixSlider } from "radix-ui";

/** A slider with a square handle, as on a scale. */
export function Slider({
  label,
  value,
  min,
  max,
  step,
  onChange,
}: {
  label: string;
  value: number;
  min: number;
  max: number;
  step: number;
  onChange: (value: number) => void;
}) {
  return (
    <RadixSlider.Root
      value={[value]}
      min={min}
      max={max}
      step={step}
      onValueChange={([x]) => onChange(x)}
      className="relative flex h-5 w-full touch-none items-center select-none"
    >
      <RadixSlider.Track className="relative h-[3px] grow rounded bg-edge">
        <RadixSlider.Range className="absolute h-full rounded bg-ink-faint" />
      </RadixSlider.Track>
      <RadixSlider.Thumb aria-label={label} className="block h-4 w-[7px] rounded-[2px] bg-ink" />
    </RadixSlider.Root>
  );
}
