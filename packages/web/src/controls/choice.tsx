/** One of a few, side by side. */
export function Choice<T extends string>({
  label,
  options,
  value,
  onChoose,
}: {
  label: string;
  options: readonly (readonly [value: T, text: string])[];
  value: T | null;
  onChoose: (value: T) => void;
}) {
  return (
    <div role="radiogroup" aria-label={label} className="flex flex-wrap gap-1">
      {options.map(([option, text]) => (
        <button
          key={option}
          role="radio"
          aria-checked={option === value}
          data-find={text}
          className={`chip ${option === value ? "chip-on" : ""}`}
          onClick={() => onChoose(option)}
        >
          {text}
        </button>
      ))}
    </div>
  );
}
