import { characters } from "../../shared/format";
import { texts } from "./texts";

/** Says how many characters are left, when the end is near or passed. */
export function Counter({ text, limit }: { text: string; limit: number }) {
  const left = limit - characters(text.trim());
  if (left > Math.max(20, limit / 10)) return null;
  return (
    <p className={left < 0 ? "counter over" : "counter"} role="status">
      {left < 0 ? texts.over(-left) : texts.left(left)}
    </p>
  );
}
