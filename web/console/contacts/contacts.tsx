import "./contacts.css";

import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { keepPreviousData, useInfiniteQuery } from "@tanstack/react-query";
import { NavLink, useNavigate, useParams } from "react-router";

import { api, ask } from "../../shared/api";
import type { ContactRow } from "../../shared/types";
import { useMe } from "../desk/provider";
import { Icons } from "../icons";
import { Button } from "../kit/button";
import { Tick } from "../kit/choice";
import { useAddress } from "../kit/address";
import { useTypedWords } from "../kit/typed-words";
import { usePageTitle } from "../kit/page-title";
import { LoadTrouble } from "../kit/states";
import { InputAdornment, TextField } from "../kit/text-field";
import { VirtualList } from "../kit/virtual-list";
import { ContactPane } from "./contact";
import { ContactFiles } from "./files";

/** The contacts: a search, what it found, and the page of one. */
export default function ContactsPage() {
  usePageTitle(t`Contacts`);
  const me = useMe();
  const { id } = useParams();
  const navigate = useNavigate();
  const [address, change] = useAddress();
  const words = address.get("words") ?? "";
  const [typed, setTyped] = useTypedWords(words, (text) => change({ words: text }), 200);
  const asked = {
    words,
    mine: address.get("mine") === "1",
    vouched: address.get("vouched") === "1",
    noEmail: address.get("noEmail") === "1",
  };
  const found = useInfiniteQuery({
    queryKey: ["contacts", asked],
    initialPageParam: {} as { afterName?: string; afterId?: string },
    queryFn: ({ pageParam }) =>
      ask(api.GET("/api/contacts", { params: { query: { ...asked, ...pageParam } } })),
    getNextPageParam: (page) =>
      page.nextId ? { afterName: page.nextName ?? "", afterId: page.nextId } : undefined,
    placeholderData: keepPreviousData,
  });
  const list = found.data?.pages.flatMap((p) => p.contacts) ?? [];
  const total = found.data?.pages[0]?.total ?? 0;
  const more = () => {
    if (found.hasNextPage && !found.isFetchingNextPage) void found.fetchNextPage();
  };
  return (
    <main className="contacts">
      <section className="list" aria-label={t`Contacts`}>
        <header>
          <h1>
            <Trans>Contacts</Trans>
          </h1>
          <Button
            variant="outlined"
            startIcon={<Icons.Plus />}
            onClick={() => void navigate("/contacts/new")}
          >
            <Trans>New</Trans>
          </Button>
        </header>
        <TextField
          size="small"
          type="search"
          fullWidth
          value={typed}
          placeholder={t`Name, email, phone, company`}
          onChange={(e) => setTyped(e.target.value)}
          onKeyDown={(e) => {
            if (e.key === "Escape") setTyped("");
          }}
          slotProps={{
            htmlInput: { "aria-label": t`Search the contacts`, maxLength: 200 },
            input: {
              startAdornment: (
                <InputAdornment position="start">
                  <Icons.Search />
                </InputAdornment>
              ),
            },
          }}
        />
        <div className="only">
          <Tick checked={asked.mine} change={(on) => change({ mine: on ? "1" : "" })}>
            <Trans>Mine to look after</Trans>
          </Tick>
          <Tick checked={asked.vouched} change={(on) => change({ vouched: on ? "1" : "" })}>
            <Trans>Known by the site</Trans>
          </Tick>
          <Tick checked={asked.noEmail} change={(on) => change({ noEmail: on ? "1" : "" })}>
            <Trans>Without email</Trans>
          </Tick>
        </div>
        <p className="total" role="status">
          {found.isPending ? t`Searching` : plural(total, { one: "# contact", other: "# contacts" })}
        </p>
        {found.isError ? <LoadTrouble error={found.error} again={() => void found.refetch()} /> : null}
        <div className="scroll">
          <VirtualList
            label={t`Contacts`}
            items={list}
            keyOf={(c) => c.id}
            height={56}
            onEnd={more}
            draw={(c) => <Row contact={c} search={address.toString()} />}
          />
          {found.isSuccess && list.length === 0 ? (
            <p className="nothing">
              {words || asked.mine || asked.vouched || asked.noEmail
                ? t`No contact fits. Try fewer words or filters.`
                : t`No contacts yet. Save one from About in a chat, or add one here.`}
            </p>
          ) : null}
        </div>
        {me.role !== "operator" ? <ContactFiles /> : null}
      </section>
      {id ? (
        <ContactPane key={id} id={id} />
      ) : (
        <section className="page none">
          <p>{list.length > 0 ? t`Choose a contact on the left.` : ""}</p>
        </section>
      )}
    </main>
  );
}

function Row({ contact, search }: { contact: ContactRow; search: string }) {
  return (
    <NavLink to={{ pathname: `/contacts/${contact.id}`, search }}>
      <span className="row">
        <b className="cut">
          <bdi>{contact.name || contact.email || contact.phone || t`No name yet`}</bdi>
        </b>
        {contact.vouched ? (
          <span className="known">
            <Icons.Check /> <Trans>known by the site</Trans>
          </span>
        ) : null}
      </span>
      <span className="cut meta">
        {[contact.email, contact.company || contact.phone].filter(Boolean).join(" · ")}
      </span>
    </NavLink>
  );
}
