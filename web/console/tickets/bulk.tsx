import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, ask } from "../../shared/api";
import { wordsFor } from "../../shared/problem";
import type { TicketPart, TicketRow } from "../../shared/types";
import { Button } from "../kit/button";
import { Menu, MenuItem } from "../kit/menu";
import { say } from "../kit/say";
import { Wrong } from "../kit/states";
import { AskTag } from "./ask-tag";
import { MergeMany } from "./merge";
import { useDepartments, useOwners, type Option } from "./people";
import { priorityOptions, statusOptions } from "./words";

type What = "status" | "owner" | "department" | "priority";

/** What can be done with the tickets that are chosen, all at once. */
export function Bulk({ picked, done }: { picked: TicketRow[]; done: () => void }) {
  const queries = useQueryClient();
  const owners = useOwners();
  const departments = useDepartments();
  const [menu, setMenu] = useState<{ what: What; at: HTMLElement }>();
  const [asking, setAsking] = useState<"tag" | "merge">();
  const [trouble, setTrouble] = useState<string>();
  const [busy, setBusy] = useState(false);
  const run = async (change: TicketPart) => {
    setBusy(true);
    setTrouble(undefined);
    setMenu(undefined);
    try {
      const ids = picked.slice(0, most).map((r) => r.id);
      const result = await ask(api.POST("/api/tickets/many", { body: { ids, change } }));
      say(plural(result.done, { one: "# ticket changed", other: "# tickets changed" }), "success");
      const failed = result.failed.map((f) => f.number ?? "").filter(Boolean);
      if (result.failed.length > 0) setTrouble(t`These stayed as they were: ${failed.join(", ")}`);
      else done();
    } catch (error) {
      setTrouble(wordsFor(error));
    }
    setBusy(false);
    await queries.invalidateQueries({ queryKey: ["tickets"] });
    await queries.invalidateQueries({ queryKey: ["ticket"] });
  };
  const options: Record<What, readonly Option[]> = {
    status: statusOptions,
    owner: owners,
    department: departments,
    priority: priorityOptions,
  };
  const button = (what: What, words: string) => (
    <Button
      variant="outlined"
      aria-haspopup="menu"
      disabled={busy}
      onClick={(e) => setMenu({ what, at: e.currentTarget })}
    >
      {words}
    </Button>
  );
  return (
    <div className="bulk" role="group" aria-label={t`Chosen tickets`}>
      <p>
        <b>{plural(picked.length, { one: "# chosen", other: "# chosen" })}</b>
        <Button onClick={done}>
          <Trans>Choose none</Trans>
        </Button>
      </p>
      <div className="acts">
        {button("status", t`Status`)}
        {button("owner", t`Owner`)}
        {button("priority", t`Priority`)}
        {button("department", t`Department`)}
        <Button variant="outlined" disabled={busy} onClick={() => setAsking("tag")}>
          <Trans>Add tag</Trans>
        </Button>
        {picked.length > 1 ? (
          <Button variant="outlined" disabled={busy} onClick={() => setAsking("merge")}>
            <Trans>Merge</Trans>
          </Button>
        ) : null}
      </div>
      <Wrong words={trouble} />
      <Menu anchorEl={menu?.at ?? null} open={menu !== undefined} onClose={() => setMenu(undefined)}>
        {menu
          ? options[menu.what].map((o) => (
              <MenuItem key={o.value} onClick={() => void run({ [menu.what]: o.value })}>
                {o.label}
              </MenuItem>
            ))
          : null}
      </Menu>
      {asking === "tag" ? (
        <AskTag
          close={() => setAsking(undefined)}
          put={(tag) => {
            setAsking(undefined);
            void run({ addTags: [tag] });
          }}
        />
      ) : null}
      {asking === "merge" ? (
        <MergeMany picked={picked} close={() => setAsking(undefined)} merged={done} />
      ) : null}
    </div>
  );
}

// As many as the server changes at once.
const most = 200;
