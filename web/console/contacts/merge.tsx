import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, ask } from "../../shared/api";
import { wordsFor } from "../../shared/problem";
import type { ContactView } from "../../shared/types";
import { Button } from "../kit/button";
import { Choice } from "../kit/choice";
import { say } from "../kit/say";
import { Wrong } from "../kit/states";
import { TextField } from "../kit/text-field";

const parts = ["name", "email", "phone", "company"] as const;

/** Makes one contact of two: what differs is chosen before, and seen as it will be. */
export function Merge({ id, contact }: { id: string; contact: ContactView }) {
  const queries = useQueryClient();
  const [typed, setTyped] = useState("");
  const [otherId, setOtherId] = useState("");
  const [theirs, setTheirs] = useState<readonly string[]>([]); // parts of the other that stay
  const [trouble, setTrouble] = useState("");
  const [busy, setBusy] = useState(false);
  const compare = (other: string) => {
    setOtherId(other);
    setTheirs([]);
    setTrouble("");
  };
  const found = useQuery({
    queryKey: ["contacts", "merge", typed],
    queryFn: () => ask(api.GET("/api/contacts", { params: { query: { words: typed } } })),
    enabled: typed.trim().length > 1,
  });
  const other = useQuery({
    queryKey: ["contact", otherId],
    queryFn: () => ask(api.GET("/api/contacts/{id}", { params: { path: { id: otherId } } })),
    enabled: otherId !== "",
  });
  const second = other.data?.contact;
  const merged = second ? mergedOf(contact, second, theirs) : undefined;
  const merge = () => {
    if (!second || !merged || busy) return;
    setBusy(true);
    setTrouble("");
    ask(
      api.POST("/api/contacts/{id}/merge", {
        params: { path: { id } },
        body: { otherId, otherVersion: second.version, merged },
      }),
    )
      .then(
        async () => {
          compare("");
          setTyped("");
          say(t`The two are one contact now`, "success");
          await queries.invalidateQueries({ queryKey: ["contact"] });
          void queries.invalidateQueries({ queryKey: ["contacts"] });
        },
        (error: unknown) => {
          setTrouble(wordsFor(error));
          void queries.invalidateQueries({ queryKey: ["contact"] });
        },
      )
      .finally(() => setBusy(false));
  };
  return (
    <section className="part merge">
      <h3>
        <Trans>Merge with another contact</Trans>
      </h3>
      {second && merged ? (
        <>
          <dl className="facts">
            {parts.map((part) => (
              <div key={part}>
                <dt>{labels[part]}</dt>
                <dd dir="auto">
                  {contact[part] && second[part] && contact[part] !== second[part] ? (
                    <Choice
                      label={labels[part]}
                      value={theirs.includes(part) ? "theirs" : "mine"}
                      change={(value) =>
                        setTheirs(value === "theirs" ? [...theirs, part] : theirs.filter((p) => p !== part))
                      }
                      options={[
                        { value: "mine", words: contact[part] },
                        { value: "theirs", words: second[part] },
                      ]}
                    />
                  ) : (
                    merged[part] || t`empty`
                  )}
                </dd>
              </div>
            ))}
          </dl>
          <p className="nothing">
            <Trans>
              Chats, visits and notes of both will stand together. Browsers can be taken apart again.
            </Trans>
          </p>
          <Wrong words={trouble} />
          <Button variant="outlined" disabled={busy} onClick={merge}>
            <Trans>Merge</Trans>
          </Button>
          <Button onClick={() => compare("")}>
            <Trans>Cancel</Trans>
          </Button>
        </>
      ) : (
        <>
          <TextField
            size="small"
            fullWidth
            value={typed}
            placeholder={t`Find the other contact`}
            onChange={(e) => setTyped(e.target.value)}
            slotProps={{ htmlInput: { "aria-label": t`Find the other contact`, maxLength: 200 } }}
          />
          <ul className="browsers">
            {typed.trim().length > 1
              ? (found.data?.contacts ?? [])
                  .filter((c) => c.id !== id)
                  .slice(0, 6)
                  .map((c) => (
                    <li key={c.id}>
                      <span className="cut">{[c.name, c.email].filter(Boolean).join(", ")}</span>
                      <Button size="small" onClick={() => compare(c.id)}>
                        <Trans>Compare</Trans>
                      </Button>
                    </li>
                  ))
              : null}
          </ul>
        </>
      )}
    </section>
  );
}

const labels = { name: t`Name`, email: t`Email`, phone: t`Phone`, company: t`Company` };

/** What the one contact will be: of what only one has, that; else what was chosen. */
function mergedOf(mine: ContactView, other: ContactView, theirs: readonly string[]): ContactView {
  const merged: ContactView = { ...mine, fields: { ...other.fields, ...mine.fields } };
  for (const part of parts) merged[part] = theirs.includes(part) ? other[part] : mine[part] || other[part];
  return merged;
}
