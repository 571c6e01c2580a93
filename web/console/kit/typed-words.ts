import { useEffect, useRef, useState } from "react";

/**
 * Returns what stands in the field of a search whose words are kept in the address, and
 * how to type. What was typed goes to the address after a pause, in milliseconds; what
 * something else wrote there, as a search that was kept or the way back, comes into the
 * field.
 */
export function useTypedWords(
  words: string,
  change: (words: string) => void,
  pause: number,
): [string, (typed: string) => void] {
  const [typed, setTyped] = useState(words);
  const [seen, setSeen] = useState(words);
  const [told, setTold] = useState(words);
  if (words !== seen) {
    setSeen(words);
    // What was told from here arrives when more may have been typed.
    if (words !== told) {
      setTold(words);
      setTyped(words);
    }
  }
  const latest = useRef(change);
  useEffect(() => {
    latest.current = change;
  });
  useEffect(() => {
    const wanted = typed.trim();
    if (wanted === told) return;
    const timer = setTimeout(() => {
      setTold(wanted);
      latest.current(wanted);
    }, pause);
    return () => clearTimeout(timer);
  }, [typed, told, pause]);
  return [typed, setTyped];
}
