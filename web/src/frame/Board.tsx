/** The mark: two squares of a board. */
export function Board({ size = 22 }: { size?: number }) {
  return (
    <svg width={size} height={size} viewBox="0 0 16 16" aria-hidden="true" className="shrink-0">
      <path d="M1 1h7v7H1zM8 8h7v7H8z" className="fill-spruce" />
      <path d="M1 1h14v14H1z" fill="none" stroke="currentColor" />
    </svg>
  );
}
