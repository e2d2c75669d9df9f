// Kinds to check, several at once, each with its count.
type Props = {
  label: string;
  known: readonly string[];
  words?: (one: string) => string;
  chosen: readonly string[];
  count: (one: string) => number | undefined; // undefined while it loads
  choose: (chosen: string[]) => void;
};

export function Chips({ label, known, words, chosen, count, choose }: Props) {
  if (known.length === 0) return null;
  return (
    <fieldset className="mt-1 flex flex-wrap gap-x-3">
      <legend className="sr-only">{label}</legend>
      {known.map((one) => (
        <label key={one} className="inline-flex min-h-6 items-center gap-1.5 text-xs">
          <input
            type="checkbox"
            checked={chosen.includes(one)}
            onChange={() => choose(chosen.includes(one) ? chosen.filter((other) => other !== one) : [...chosen, one])}
          />
          {words?.(one) ?? one} <span className="text-faint">{count(one)}</span>
        </label>
      ))}
    </fieldset>
  );
}
