import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import { api, ask } from "../../../shared/api";
import { Tick } from "../../kit/choice";
import { NumberField, TextInput } from "../../kit/field";
import { Select } from "../../kit/select";
import { Wrong } from "../../kit/states";
import { PagePatterns } from "../page-patterns";
import type { PartProps } from "./editor";

/** On which pages it stands, whom it leads to, and when it is open. */
export function PagesPart({ design, change, wrongAt }: PartProps) {
  const departments = useQuery({
    queryKey: ["setup", "departments"],
    queryFn: () => ask(api.GET("/api/setup/departments")),
  });
  const hours = useQuery({ queryKey: ["setup", "hours"], queryFn: () => ask(api.GET("/api/setup/hours")) });
  const choose = (id: string, on: boolean) =>
    change({
      departments: on ? [...design.departments, id] : design.departments.filter((d) => d !== id),
    });
  return (
    <>
      <h3>
        <Trans>Sites and pages</Trans>
      </h3>
      <TextInput
        label={t`Sites that carry it`}
        value={design.sites.join(", ")}
        change={(text) =>
          change({
            sites: text
              .split(",")
              .map((s) => s.trim())
              .filter((s, i, all) => s || i === all.length - 1),
          })
        }
        wrong={wrongAt("sites")}
        placeholder="https://www.example.com"
        hint={t`Addresses without a path; with commas between them. On other sites the snippet does nothing`}
      />
      <div className="fields">
        <PagePatterns
          label={t`Shown on`}
          value={design.showOn}
          change={(showOn) => change({ showOn })}
          wrong={wrongAt("showOn")}
          placeholder={t`all pages`}
          hint={t`Like /fares, /freight*; with commas between them`}
        />
        <PagePatterns
          label={t`Not shown on`}
          value={design.hideOn}
          change={(hideOn) => change({ hideOn })}
          wrong={wrongAt("hideOn")}
          placeholder={t`no page`}
        />
      </div>
      <PageTester design={design} />
      <h3>
        <Trans>Who answers</Trans>
      </h3>
      <Tick checked={design.departments.length === 0} change={(on) => on && change({ departments: [] })}>
        <Trans>All departments; rules say which one a chat goes to</Trans>
      </Tick>
      <div className="languages">
        {(departments.data ?? []).map((d) => (
          <Tick
            key={d.id}
            checked={design.departments.includes(d.id ?? "")}
            change={(on) => choose(d.id ?? "", on)}
          >
            {d.name}
          </Tick>
        ))}
      </div>
      <Wrong words={wrongAt("departments")} />
      <p className="about">
        <Link to="/setup/rules">
          <Trans>Rules</Trans>
        </Link>{" "}
        ·{" "}
        <Link to="/setup/departments">
          <Trans>Departments</Trans>
        </Link>{" "}
        ·{" "}
        <Link to="/setup/invitations">
          <Trans>Invitations</Trans>
        </Link>
      </p>
      <Tick checked={!design.uninvited} change={(on) => change({ uninvited: !on })}>
        <Trans>Visitors here may be invited to a chat, by hand and by the invitation rules</Trans>
      </Tick>
      <h3>
        <Trans>When it is open</Trans>
      </h3>
      <Select
        label={t`Hours of this widget`}
        value={design.hoursId ?? ""}
        change={(id) => change({ hoursId: id || undefined })}
        wrong={wrongAt("hoursId")}
        hint={t`It is open when these hours, a department’s hours and somebody available meet`}
        options={[
          { value: "", label: t`those of its departments only` },
          ...(hours.data ?? []).map((h) => ({ value: h.id ?? "", label: h.name })),
        ]}
      />
      <Tick checked={design.hideClosed} change={(hideClosed) => change({ hideClosed })}>
        <Trans>Hide the launcher while the team is closed, instead of offering to leave a message</Trans>
      </Tick>
      <Select
        label={t`What a message needs for our reply`}
        value={design.reachBy}
        change={(v) => change({ reachBy: v as typeof design.reachBy })}
        wrong={wrongAt("reachBy")}
        options={[
          { value: "email", label: t`an email address` },
          { value: "phone", label: t`a phone number` },
          { value: "either", label: t`one of the two` },
        ]}
      />
      <div className="fields">
        <NumberField
          label={t`A waiting visitor who left counts as missed after`}
          unit={t`seconds`}
          value={design.goneSeconds}
          change={(goneSeconds) => change({ goneSeconds })}
          wrong={wrongAt("goneSeconds")}
        />
        <NumberField
          label={t`Answer target without a department`}
          unit={t`seconds`}
          value={design.answerTargetSeconds}
          change={(answerTargetSeconds) => change({ answerTargetSeconds })}
          wrong={wrongAt("answerTargetSeconds")}
        />
      </div>
    </>
  );
}

/** Says whether the patterns as they stand show the chat on a page. */
function PageTester({ design }: Pick<PartProps, "design">) {
  const [page, setPage] = useState("");
  const site = design.sites[0] ?? "";
  const full = page.startsWith("/") ? site + page : page;
  const patterns = { showOn: design.showOn, hideOn: design.hideOn };
  const tried = useQuery({
    queryKey: ["widget-shows", full, patterns],
    queryFn: () => ask(api.POST("/api/setup/widget-preview", { body: { design, page: full } })),
    enabled: full !== "",
    gcTime: 0,
  });
  return (
    <div className="tester">
      <TextInput
        label={t`Try an address`}
        value={page}
        change={setPage}
        placeholder="/fares/summer"
        most={500}
      />
      <p role="status" className={tried.data?.shows ? "is-open" : "lacks"}>
        {!full || !tried.data
          ? ""
          : tried.data.shows
            ? t`The chat shows there.`
            : t`The chat does not show there.`}
      </p>
    </div>
  );
}
