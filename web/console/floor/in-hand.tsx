import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useNavigate } from "react-router";

import { clock } from "../../shared/format";
import { useDeskStore, useListed, useNow } from "../desk/provider";
import { ofColleagues } from "../desk/store/lists";
import { Icons } from "../icons";
import { Button } from "../kit/button";
import { sayTrouble } from "../kit/say";
import { Table } from "../kit/table";

/** For leads: the chats that colleagues hold, to watch one. */
export function InHand() {
  const store = useDeskStore();
  const now = useNow();
  const navigate = useNavigate();
  const held = useListed(ofColleagues);
  const chats = [...held].sort((a, b) => Date.parse(a.turnSince) - Date.parse(b.turnSince));
  const then = (act: Promise<void>) => void act.then(() => navigate("/desk"), sayTrouble);
  return (
    <section className="in-hand" aria-labelledby="in-hand-head">
      <h2 id="in-hand-head">
        <Trans>Colleagues’ chats</Trans>
      </h2>
      {chats.length === 0 ? (
        <p className="nothing">
          <Trans>Your colleagues have no chats right now.</Trans>
        </p>
      ) : null}
      {chats.length > 0 ? (
        <Table
          rows={chats}
          keyOf={(c) => c.id}
          columns={[
            { head: t`Visitor`, cell: (c) => <bdi>{c.name || t`Visitor`}</bdi> },
            { head: t`Operator`, cell: (c) => c.ownerName },
            { head: t`Department`, cell: (c) => c.departmentName },
            {
              head: t`Turn`,
              className: "clock",
              cell: (c) =>
                `${c.turn === "team" ? (c.ownerName?.split(" ")[0] ?? t`team`) : t`visitor`} ${clock(now - Date.parse(c.turnSince))}`,
            },
            { head: t`Last message`, className: "last", cell: (c) => <span dir="auto">{c.lastWords}</span> },
            {
              head: t`Watch or step in`,
              silent: true,
              className: "acts",
              cell: (c) => (
                <>
                  <Button
                    variant="outlined"
                    startIcon={<Icons.Eye />}
                    onClick={() => then(store.acts.watch(c.id))}
                  >
                    <Trans>Watch</Trans>
                  </Button>
                  <Button variant="outlined" onClick={() => then(store.acts.join(c.id))}>
                    <Trans>Step in</Trans>
                  </Button>
                </>
              ),
            },
          ]}
        />
      ) : null}
    </section>
  );
}
