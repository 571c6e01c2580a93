import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useState } from "react";

import { ProblemError, wordsFor, wrongFields } from "../../shared/problem";
import { say } from "../kit/say";

/** What a form needs for saving: whether it is under way, and what was found wrong where. */
export interface Saving {
  busy: boolean;
  /** What is wrong as a whole; empty when nothing is, or when it stands at the fields. */
  trouble: string;
  /** Something is wrong at a field. */
  amiss: boolean;
  /** What is wrong at a field, or nothing. */
  wrongAt: (field: string) => string | undefined;
  /** Saves; what was typed stays when it fails. Returns whether it worked. */
  run: (save: () => Promise<unknown>, done: string) => Promise<boolean>;
  /** Forgets what was wrong, after a change. */
  clear: () => void;
}

/** Saves what a form holds and keeps what the server says about it. */
export function useSaving(): Saving {
  const queries = useQueryClient();
  const [busy, setBusy] = useState(false);
  const [trouble, setTrouble] = useState("");
  const [fields, setFields] = useState<Record<string, string>>({});
  const run = useCallback(
    async (save: () => Promise<unknown>, done: string) => {
      setBusy(true);
      setTrouble("");
      setFields({});
      try {
        await save();
        say(done, "success");
        return true;
      } catch (error) {
        const problem = error instanceof ProblemError ? error.problem : undefined;
        const wrong = wrongFields(problem);
        // A colleague was faster: the form shows what they stored beside what was typed.
        if (problem?.code === "changed") void queries.invalidateQueries();
        setFields(wrong);
        setTrouble(Object.keys(wrong).length > 0 ? "" : wordsFor(error));
        return false;
      } finally {
        setBusy(false);
      }
    },
    [queries],
  );
  const clear = useCallback(() => {
    setTrouble("");
    setFields({});
  }, []);
  return {
    busy,
    trouble,
    amiss: Object.keys(fields).length > 0,
    wrongAt: (field) => fields[field],
    run,
    clear,
  };
}
