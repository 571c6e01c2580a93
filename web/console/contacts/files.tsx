import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, ask } from "../../shared/api";
import { Icons } from "../icons";
import { Button } from "../kit/button";
import { ImportFile } from "../kit/import-file";

/** Contacts out to files and in from files. */
export function ContactFiles() {
  const [importing, setImporting] = useState(false);
  return (
    <footer>
      <Button component="a" href="/api/contacts.csv" download startIcon={<Icons.Download />}>
        <Trans>CSV</Trans>
      </Button>
      <Button component="a" href="/api/contacts.vcf" download startIcon={<Icons.Download />}>
        <Trans>vCard</Trans>
      </Button>
      <Button onClick={() => setImporting(true)} startIcon={<Icons.Upload />}>
        <Trans>Import</Trans>
      </Button>
      {importing ? <ImportContacts onClose={() => setImporting(false)} /> : null}
    </footer>
  );
}

function ImportContacts({ onClose }: { onClose: () => void }) {
  const queries = useQueryClient();
  const [cards, setCards] = useState(false);
  const run = async (file: string, apply: boolean) => {
    setCards(/^\uFEFF?\s*begin:vcard/i.test(file));
    const plan = await ask(
      api.POST("/api/contacts/import", { params: { query: { apply } }, body: { file } }),
    );
    if (apply) await queries.invalidateQueries({ queryKey: ["contacts"] });
    const unknown = plan.unknown.join(", ");
    return { ...plan, beside: unknown ? t`Nothing is taken from these columns: ${unknown}.` : "" };
  };
  return (
    <ImportFile
      title={t`Import contacts`}
      accept=".csv,.vcf,text/csv,text/vcard"
      numbered={(n) => (cards ? t`Card ${n}` : t`Line ${n}`)}
      run={run}
      onClose={onClose}
    >
      <Trans>
        A CSV file with a header row (name, email, phone, company and your own fields), or vCards of version 3
        or 4. A contact is found by its email. What the file leaves empty stays as it is, nothing is deleted,
        and you see what changes before it does.
      </Trans>
    </ImportFile>
  );
}
