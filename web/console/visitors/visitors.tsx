import "./visitors.css";

import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useCallback, useMemo } from "react";

import { useTeam } from "../desk/provider";
import { useAddress } from "../kit/address";
import { Choice } from "../kit/choice";
import { later } from "../kit/later";
import { Lazily } from "../kit/lazily";
import { usePageTitle } from "../kit/page-title";
import { Filters } from "./filters";
import { lookOf } from "./filtering";
import { useSeen } from "../guests/looking";
import { GuestSheetPane } from "./sheet";
import { GuestTable } from "./table";

const SiteMap = later(() => import("./site-map"));

/** Under which the screen looks at the visitors. */
const screen = "visitors";

/** Everybody on the sites: a table, a map, and a sheet for one of them. */
export default function VisitorsPage() {
  usePageTitle(t`Visitors`);
  const [address, change] = useAddress();
  const open = address.get("visitor") ?? "";
  const asked = useMemo(() => ({ ...lookOf(address), id: screen, open, map: true }), [address, open]);
  const place = address.get("place") ?? "";
  const pick = useCallback(
    (picked: string) => change({ place: picked === place ? "" : picked }),
    [change, place],
  );
  const filtered = [...address.keys()].some(
    (k) => k !== "visitor" && k !== "group" && k !== "sort" && k !== "up" && k !== "folded",
  );
  return (
    <main className="visitors">
      <section className="crowd" aria-label={t`Everybody on the site`}>
        <header>
          <h1>
            <Trans>Visitors</Trans>
          </h1>
          <Counts filtered={filtered} />
          <div className="grouping">
            <span aria-hidden="true">
              <Trans>Group by</Trans>
            </span>
            <Choice
              label={t`Group by`}
              value={address.get("group") ?? "page"}
              change={(group) => change({ group: group === "page" ? "" : group, folded: "" })}
              options={[
                { value: "page", words: t`Page` },
                { value: "country", words: t`Country` },
                { value: "department", words: t`Department` },
                { value: "source", words: t`Source` },
                { value: "state", words: t`State` },
                { value: "none", words: t`None` },
              ]}
            />
          </div>
        </header>
        <Filters look={screen} address={address} change={change} />
        <GuestTable screen={screen} asked={asked} open={open} change={change} filtered={filtered} />
      </section>
      <aside className="side">
        <section className="map" aria-label={t`Where they are`}>
          <header>
            <h2>
              <Trans>Where they are</Trans>
            </h2>
            <span>
              <Trans>size shows how many</Trans>
            </span>
          </header>
          <Lazily fallback={<div className="world" aria-busy="true" />}>
            <SiteMap screen={screen} place={place} pick={pick} />
          </Lazily>
        </section>
        {open ? (
          <GuestSheetPane key={open} id={open} screen={screen} close={() => change({ visitor: "" })} />
        ) : (
          <p className="nothing">
            <Trans>Choose a visitor to see their path, their basket and earlier visits.</Trans>
          </p>
        )}
      </aside>
    </main>
  );
}

/** How many are there. It changes all the time, and nothing around it does. */
function Counts({ filtered }: { filtered: boolean }) {
  const connection = useTeam((s) => s.connection);
  const loaded = useSeen(screen, (s) => s.loaded);
  const total = useSeen(screen, (s) => s.total);
  const waiting = useSeen(screen, (s) => s.waiting);
  const inChat = useSeen(screen, (s) => s.inChat);
  const found = useSeen(screen, (s) => s.found);
  return (
    <p role="status">
      {connection !== "live"
        ? t`No connection. This is from before it was lost.`
        : !loaded
          ? t`Looking who is there`
          : [
              plural(total, { one: "# on the site", other: "# on the site" }),
              filtered ? plural(found, { one: "# shown", other: "# shown" }) : "",
              waiting > 0 ? plural(waiting, { one: "# waiting", other: "# waiting" }) : "",
              inChat > 0 ? plural(inChat, { one: "# in a chat", other: "# in a chat" }) : "",
            ]
              .filter(Boolean)
              .join(", ")}
    </p>
  );
}
