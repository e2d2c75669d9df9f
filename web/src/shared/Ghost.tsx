// Rows to come: six ruled lines in their place, with a sentence once it takes long.
const ROWS = 6;

export function Ghost({ words, height = 44 }: { words: string; height?: number }) {
  return (
    <div role="status">
      <p className="late px-4 pt-2 text-faint">{words}</p>
      <div aria-hidden="true">
        {Array.from({ length: ROWS }, (_, row) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: they are all alike and never change
          <div key={row} style={{ height }} className="flex items-center gap-6 border-rule border-b px-4">
            <span className="h-2 w-2/5 bg-shade" />
            <span className="ml-auto h-2 w-12 bg-shade" />
            <span className="h-2 w-12 bg-shade" />
          </div>
        ))}
      </div>
    </div>
  );
}
