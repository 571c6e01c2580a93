import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQueryClient } from "@tanstack/react-query";

import { api, ask } from "../../shared/api";
import { ImportFile } from "../kit/import-file";

// As many lines as anybody reads; the counts tell the rest.
const most = 100;

/** Takes canned responses in from a CSV file, after showing what it would change. */
export function ImportDialog({ onClose }: { onClose: () => void }) {
  const queries = useQueryClient();
  const run = async (csv: string, apply: boolean) => {
    const plan = await ask(api.POST("/api/canned/import", { params: { query: { apply } }, body: { csv } }));
    if (apply) await queries.invalidateQueries({ queryKey: ["canned"] });
    return {
      add: plan.add.length,
      change: plan.change.length,
      same: plan.same,
      rejected: plan.rejected.length,
      refused: plan.rejected.slice(0, most).map((r) => ({ number: r.line, words: r.words })),
      lines: [...plan.change, ...plan.add].slice(0, most).map((l) => ({
        number: l.line,
        name: (
          <>
            <b>;{l.shortcut}</b>
            {l.language ? <span className="meta">{l.language}</span> : null}
          </>
        ),
        before: l.before,
        after: l.after,
      })),
    };
  };
  return (
    <ImportFile
      title={t`Import canned responses`}
      accept=".csv,text/csv"
      numbered={(n) => t`Line ${n}`}
      run={run}
      onClose={onClose}
    >
      <Trans>
        A CSV file with a header row: shortcut, text and, optionally, folder, language, scope (own,
        department, common) and department. Nothing is deleted, and you see what changes before it does.
      </Trans>
    </ImportFile>
  );
}
