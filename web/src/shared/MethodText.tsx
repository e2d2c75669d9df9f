// A rule in plain words: answer, example, details, and measured error rates. Markdown, loaded on first use.
import type { ReactNode } from "react";
import Markdown from "react-markdown";
import remarkGfm from "remark-gfm";

type Props = { text: string; measured: string; example?: ReactNode };

export default function MethodText({ text, measured, example }: Props) {
  const end = text.indexOf("\n\n");
  const [answer, rest] = end < 0 ? [text, ""] : [text.slice(0, end), text.slice(end)];
  return (
    <div className="method space-y-2 leading-snug">
      <Markdown remarkPlugins={[remarkGfm]}>{answer}</Markdown>
      {example}
      <Markdown remarkPlugins={[remarkGfm]}>{rest}</Markdown>
      {measured && (
        <>
          <h3 className="border-rule border-t pt-2 text-lead">How far this can be trusted</h3>
          <p className="text-faint text-xs">
            Measured on simulated sites that break the assumptions of the rule, with 95 % intervals.
          </p>
          <Markdown remarkPlugins={[remarkGfm]}>{measured}</Markdown>
        </>
      )}
    </div>
  );
}
