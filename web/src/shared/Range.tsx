// A value against its usual range: a band with a dot, on a scale from nothing to `most`.
type Props = {
  value: number;
  low: number;
  high: number;
  usual: number; // the expected value, a tick within the band
  most: number; // the end of the scale
  below: "bad" | "good"; // what a value under the band means
  words: string; // the same as a sentence
};

const WIDTH = 112;
const HEIGHT = 14;
const MIDDLE = HEIGHT / 2;

export function Range({ value, low, high, usual, most, below, words }: Props) {
  // Square root: half of all rows are below 2 %, and a linear scale would squeeze them together.
  const at = (one: number) => 4 + Math.sqrt(Math.min(Math.max(one, 0) / most, 1)) * (WIDTH - 8);
  const tone =
    value < low ? (below === "bad" ? "fill-rust" : "fill-spruce") : value > high ? "fill-spruce" : "fill-ink";
  return (
    <svg
      width={WIDTH}
      height={HEIGHT}
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      role="img"
      aria-label={words}
      className="range"
    >
      <path d={`M4 ${MIDDLE}H${WIDTH - 4}`} className="stroke-rule" />
      <rect x={at(low)} y={MIDDLE - 4} width={Math.max(at(high) - at(low), 1)} height="8" className="fill-band" />
      <path d={`M${at(usual)} ${MIDDLE - 5}v10`} className="stroke-ink" />
      <circle cx={at(value)} cy={MIDDLE} r="3.5" className={tone} />
    </svg>
  );
}
