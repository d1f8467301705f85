import { Link } from "react-router";

/** A calm line in the middle while something opens, or why it did not. */
export function Waiting({ text, home }: { text: string; home?: boolean }) {
  return (
    <div role="status" className="grid h-full place-content-center gap-3 text-center">
      <p className="text-quiet font-serif text-lg">{text}</p>
      {home && (
        <Link className="underline underline-offset-4" to="/">
          All rolls
        </Link>
      )}
    </div>
  );
}
