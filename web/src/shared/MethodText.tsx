// A rule in our words, and what was measured of it: Markdown with tables, loaded when the first is opened.
import Markdown from "react-markdown";
import remarkGfm from "remark-gfm";

export default function MethodText({ text, measured }: { text: string; measured: string }) {
  return (
    <div className="method space-y-2 leading-snug">
      <Markdown remarkPlugins={[remarkGfm]}>{text}</Markdown>
      {measured && (
        <>
          <h3 className="border-rule border-t pt-2 text-[15px]">How far this can be trusted</h3>
          <p className="text-faint text-xs">
            Measured on made-up sites that break what the rule assumes, with 95 % intervals.
          </p>
          <Markdown remarkPlugins={[remarkGfm]}>{measured}</Markdown>
        </>
      )}
    </div>
  );
}
