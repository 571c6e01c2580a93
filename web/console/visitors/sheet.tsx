import "./sheet.css";

import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Link, useNavigate } from "react-router";

import { api, ask } from "../../shared/api";
import { clock, dayAndTime, timeOfDay } from "../../shared/format";
import type { GuestView, PageSeen, PastVisit } from "../../shared/types";
import { useChat, useDeskStore, useMe, useNow } from "../desk/provider";
import { Icons } from "../icons";
import { Button, IconButton } from "../kit/button";
import { LoadTrouble } from "../kit/states";
import { Basket } from "../guests/basket";
import { Doing, Since } from "./columns";
import { Invite } from "./invite";
import { useSeen } from "../guests/looking";
import { basketMoney } from "../guests/basket-money";
import { countryName, deviceWords, guestName, reasonWords, sourceKind, sourceWords } from "../guests/words";
import { Path } from "../guests/path";

interface Props {
  id: string;
  screen: string;
  close: () => void;
}

/** All that is known of one visitor. */
export function GuestSheetPane({ id, screen, close }: Props) {
  const open = useSeen(screen, (s) => s.open);
  const loaded = useSeen(screen, (s) => s.loaded);
  const sheet = useQuery({
    queryKey: ["visitor", id],
    queryFn: () => ask(api.GET("/api/visitors/{id}", { params: { path: { id } } })),
    placeholderData: keepPreviousData,
  });
  const guest = open?.guest?.id === id ? open.guest : undefined;
  return (
    <section className="sheet" aria-label={guest ? guestName(guest) : t`Visitor`}>
      {guest ? (
        <Now guest={guest} path={open?.path ?? []} close={close} />
      ) : (
        <header>
          <h2>{loaded ? t`Not on the site any more` : t`Looking`}</h2>
          <IconButton size="small" aria-label={t`Close`} onClick={close}>
            <Icons.Close />
          </IconButton>
        </header>
      )}
      {sheet.isError ? <LoadTrouble error={sheet.error} again={() => void sheet.refetch()} /> : null}
      {sheet.data && (sheet.data.past.length > 0 || guest?.visits === 1) ? (
        <section>
          <h3>
            <Trans>Earlier visits</Trans>
          </h3>
          {sheet.data.past.length === 0 ? (
            <p className="nothing">
              <Trans>None: this is their first.</Trans>
            </p>
          ) : (
            <ol className="past">
              {sheet.data.past.map((v) => (
                <Past key={v.id} visit={v} />
              ))}
            </ol>
          )}
          {sheet.data.more ? (
            <p className="nothing">
              <Trans>There were more before these.</Trans>
            </p>
          ) : null}
        </section>
      ) : null}
    </section>
  );
}

function Now({ guest, path, close }: { guest: GuestView; path: readonly PageSeen[]; close: () => void }) {
  return (
    <>
      <header>
        <h2 className="cut">
          <bdi>{guestName(guest)}</bdi>
        </h2>
        <Doing guest={guest} />
        <IconButton size="small" aria-label={t`Close`} onClick={close}>
          <Icons.Close />
        </IconButton>
      </header>
      <Serving guest={guest} />
      <dl className="facts">
        {guest.email ? <Fact name={t`Email`}>{guest.email}</Fact> : null}
        <Fact name={t`Place`}>
          <Place guest={guest} />
        </Fact>
        <Fact name={t`Visit`}>{visitWords(guest)}</Fact>
        <Fact name={t`Came from`}>
          <span title={guest.source.name}>
            {sourceWords(guest.source) === sourceKind(guest.source.kind)
              ? sourceKind(guest.source.kind)
              : `${sourceWords(guest.source)} (${sourceKind(guest.source.kind)})`}
          </span>
        </Fact>
        <Fact name={t`Device`}>
          {[deviceWords(guest.device.kind), guest.device.browser, guest.device.system, guest.language]
            .filter(Boolean)
            .join(" · ")}
        </Fact>
        {guest.contactId ? (
          <Fact name={t`Contact`}>
            <Link to={`/contacts/${guest.contactId}`}>{guest.name || t`Open`}</Link>
          </Fact>
        ) : null}
        {guest.department ? <Fact name={t`Would go to`}>{guest.department}</Fact> : null}
      </dl>
      {guest.data && guest.data.length > 0 ? (
        <section>
          <h3>
            <Trans>The site says</Trans>
          </h3>
          <dl className="facts">
            {guest.data.map((f) => (
              <Fact key={f.label} name={f.label}>
                {f.value} {f.vouched ? null : <span className="claimed">{t`(not verified)`}</span>}
              </Fact>
            ))}
          </dl>
        </section>
      ) : null}
      {guest.basket ? <Basket basket={guest.basket} /> : null}
      <Invite key={guest.id} guest={guest} />
      <section>
        <header>
          <h3>
            <Trans>Path on the site</Trans>
          </h3>
          <span>
            <Since at={guest.startedAt} />, {plural(guest.pages, { one: "# page", other: "# pages" })}
            {guest.tabs > 1 ? `, ${plural(guest.tabs, { one: "# tab", other: "# tabs" })}` : ""}
          </span>
        </header>
        <Path views={path} guest={guest} />
      </section>
      <section>
        <header>
          <h3>
            <Trans>Interest</Trans>
          </h3>
          <span>{t`${guest.score} of 100`}</span>
        </header>
        {guest.reasons.length === 0 ? (
          <p className="nothing">
            <Trans>Nothing yet that tells of any.</Trans>
          </p>
        ) : (
          <dl className="facts">
            {guest.reasons.map((r) => (
              <Fact key={r.code + (r.values?.topic ?? "")} name={reasonWords(r)}>
                +{r.points}
              </Fact>
            ))}
          </dl>
        )}
      </section>
    </>
  );
}

function Fact({ name, children }: { name: string; children: React.ReactNode }) {
  return (
    <div>
      <dt>{name}</dt>
      <dd dir="auto">{children}</dd>
    </div>
  );
}

/** What to do when somebody of the team has to do with them already. */
function Serving({ guest }: { guest: GuestView }) {
  const me = useMe();
  const store = useDeskStore();
  const navigate = useNavigate();
  const chat = useChat(guest.chatId ?? "");
  if (guest.state === "waiting" && chat)
    return (
      <div className="serving">
        <Button
          variant="contained"
          onClick={() => {
            void store.acts.take(chat.id);
            void navigate("/desk");
          }}
        >
          <Trans>Take the chat</Trans>
        </Button>
      </div>
    );
  if (guest.state === "chat" && guest.ownerId === me.id)
    return (
      <div className="serving">
        <Button variant="outlined" onClick={() => void navigate("/desk")}>
          <Trans>Go to the lane</Trans>
        </Button>
      </div>
    );
  return null;
}

function Place({ guest }: { guest: GuestView }) {
  const now = useNow();
  const { place } = guest;
  const where = [place.name, countryName(place.country)].filter(Boolean).join(", ");
  if (!where) return <Trans>not known</Trans>;
  const there = place.zone ? timeOfDay(now, place.zone) : "";
  return <>{there ? t`${where}, ${there} there` : where}</>;
}

function visitWords(guest: GuestView): string {
  const chats =
    guest.chats === 0
      ? t`no chat before`
      : plural(guest.chats, { one: "# chat before", other: "# chats before" });
  return guest.visits === 1 ? t`first, ${chats}` : t`number ${guest.visits}, ${chats}`;
}

function Past({ visit }: { visit: PastVisit }) {
  return (
    <li>
      <details>
        <summary>
          <time dateTime={visit.startedAt}>{dayAndTime(visit.startedAt)}</time>
          <span className="cut">
            {plural(visit.pages, { one: "# page", other: "# pages" })}, {clock(visit.attended)},{" "}
            {sourceWords(visit.source)}
            {visit.basket ? `, ${basketMoney(visit.basket)}` : ""}
          </span>
        </summary>
        <Path views={visit.path} />
      </details>
    </li>
  );
}
