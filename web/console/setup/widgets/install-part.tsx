import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";

import { api, ask } from "../../../shared/api";
import { dayAndTime } from "../../../shared/format";
import { wordsFor } from "../../../shared/problem";
import type { Finding, WidgetSettings } from "../../../shared/types";
import { useSaving } from "../../forms/saving";
import { Icons } from "../../icons";
import { Button } from "../../kit/button";
import { TextInput } from "../../kit/field";
import { LoadTrouble, Wrong } from "../../kit/states";
import { Copied } from "./copied";
import { findingWords } from "./findings";
import { Reached } from "./reached";

const seenEvery = 3000;

/** Puts the widget on a site: the line, the page of its own, and the check. */
export function InstallPart({ kept }: { kept: WidgetSettings }) {
  const path = { path: { key: kept.key } };
  const installation = useQuery({
    queryKey: ["setup", "widget-installation", kept.key],
    queryFn: () => ask(api.GET("/api/setup/widgets/{key}/installation", { params: path })),
  });
  if (installation.isError)
    return <LoadTrouble error={installation.error} again={() => void installation.refetch()} />;
  if (!installation.data) return <p aria-busy="true" />;
  const i = installation.data;
  return (
    <>
      {kept.off ? (
        <p className="weak">
          <Trans>It is on no page until you publish it. The line can be put there before.</Trans>
        </p>
      ) : null}
      <h3>
        <Trans>One line for the site</Trans>
      </h3>
      <p className="about">
        <Trans>Put it right before the closing body tag of each page. Nothing else is needed.</Trans>
      </p>
      <Reached link={i.link} />
      <Copied text={i.snippet} label={t`Copy the line`} />
      {i.mails ? <MailIt keyOf={kept.key} /> : null}
      <h3>
        <Trans>Is it there?</Trans>
      </h3>
      <FirstVisit kept={kept} />
      <Check kept={kept} />
      <h3>
        <Trans>A page of its own</Trans>
      </h3>
      <div className="own-page">
        <div>
          <p className="about">
            <Trans>For mails, signatures and social pages, or on paper with the code.</Trans>
          </p>
          <Copied text={i.link} label={t`Copy the link`} />
          <p className="about">
            <a href={`/api/setup/widgets/${encodeURIComponent(kept.key)}/code`} download={`${kept.key}.png`}>
              <Trans>Download the code</Trans>
            </a>
          </p>
          <p className="about">
            <Trans>This link opens it in a window beside the page:</Trans>
          </p>
          <Copied text={i.window} label={t`Copy the link for a window`} />
        </div>
        <img
          src={`/api/setup/widgets/${encodeURIComponent(kept.key)}/code`}
          alt={t`QR code of ${i.link}`}
          width={144}
          height={144}
        />
      </div>
      <details>
        <summary>
          <Trans>Parameters of the line, and sites with a content security policy</Trans>
        </summary>
        <table className="parameters">
          <tbody>
            {parameters().map(([name, about]) => (
              <tr key={name}>
                <th scope="row">
                  <code>{name}</code>
                </th>
                <td>{about}</td>
              </tr>
            ))}
          </tbody>
        </table>
        <p className="about">
          <Trans>Only if the site sends a content security policy, add to it:</Trans>
        </p>
        <Copied text={i.policy.join("\n")} label={t`Copy the directives`} />
      </details>
    </>
  );
}

function parameters(): [string, string][] {
  return [
    ["data-side", t`left or right, in the place of the side chosen under Looks`],
    ["data-distance", t`pixels from that side`],
    ["data-open", t`anything: the chat is open when the page loads`],
    ["data-language", t`such as da: the chat speaks it, whatever the page says`],
  ];
}

function MailIt({ keyOf }: { keyOf: string }) {
  const saving = useSaving();
  const [to, setTo] = useState("");
  const send = () =>
    void saving
      .run(
        () =>
          ask(api.POST("/api/setup/widgets/{key}/mail", { params: { path: { key: keyOf } }, body: { to } })),
        t`On its way to ${to}`,
      )
      // What was typed meanwhile is another address.
      .then((sent) => sent && setTo((now) => (now === to ? "" : now)));
  return (
    <form
      className="row ask"
      onSubmit={(event) => {
        event.preventDefault();
        send();
      }}
    >
      <TextInput
        label={t`Or mail it to whoever keeps the site`}
        value={to}
        change={(v) => {
          setTo(v);
          saving.clear();
        }}
        wrong={saving.wrongAt("to") ?? (saving.trouble || undefined)}
        hint={t`With plain instructions`}
        placeholder="web@example.com"
        most={254}
      />
      <Button type="submit" variant="outlined" disabled={!to.trim() || saving.busy}>
        <Trans>Mail it</Trans>
      </Button>
    </form>
  );
}

/** Says when the first real page carried it, without being asked again. */
function FirstVisit({ kept }: { kept: WidgetSettings }) {
  const widgets = useQuery({
    queryKey: ["setup", "widgets"],
    queryFn: () => ask(api.GET("/api/setup/widgets")),
    refetchInterval: kept.firstSeen ? false : seenEvery,
  });
  const first = widgets.data?.find((w) => w.key === kept.key)?.firstSeen;
  return (
    <p role="status" className={first ? "first-visit is-open" : "first-visit"}>
      {first ? (
        <>
          <Icons.Check /> <Trans>The first real visit came {dayAndTime(first)}.</Trans>
        </>
      ) : (
        <>
          <Icons.Hourglass />{" "}
          <Trans>No page has carried it yet. This changes by itself when the first one does.</Trans>
        </>
      )}
    </p>
  );
}

function Check({ kept }: { kept: WidgetSettings }) {
  const [address, setAddress] = useState(kept.design.sites[0] ?? "");
  const [busy, setBusy] = useState(false);
  const [trouble, setTrouble] = useState("");
  const [found, setFound] = useState<{ address: string; findings: Finding[] } | undefined>();
  // What is found at an address that was turned away from is not said of another.
  const newest = useRef(0);
  const begin = () => {
    setTrouble("");
    setFound(undefined);
    return ++newest.current;
  };
  const check = async () => {
    const mine = begin();
    setBusy(true);
    const path = { path: { key: kept.key } };
    try {
      const got = await ask(api.POST("/api/setup/widgets/{key}/check", { params: path, body: { address } }));
      if (mine === newest.current) setFound(got);
    } catch (error) {
      if (mine === newest.current) setTrouble(wordsFor(error));
    } finally {
      if (mine === newest.current) setBusy(false);
    }
  };
  return (
    <>
      <form
        className="row ask"
        onSubmit={(event) => {
          event.preventDefault();
          void check();
        }}
      >
        <TextInput
          label={t`Look at a page`}
          value={address}
          change={(v) => {
            setAddress(v);
            begin();
            setBusy(false);
          }}
          placeholder="https://www.example.com/fares"
          most={2000}
        />
        <Button type="submit" variant="outlined" disabled={busy || !address.trim()}>
          {busy ? t`Looking` : t`Check`}
        </Button>
      </form>
      <Wrong words={trouble} />
      {found ? (
        <ul className="findings" aria-live="polite">
          {found.findings.map((f) => {
            const [title, mend] = findingWords(f, found.address);
            return (
              <li key={f.code + (f.what ?? "")} className={f.code === "right" ? "good" : ""}>
                {f.code === "right" ? <Icons.Check /> : <Icons.Warning />}
                <div>
                  <b>{title}</b>
                  <p>{mend}</p>
                </div>
              </li>
            );
          })}
        </ul>
      ) : null}
    </>
  );
}
