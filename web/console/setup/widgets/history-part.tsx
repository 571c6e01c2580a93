import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";

import { api, ask } from "../../../shared/api";
import { dayAndTime, listed } from "../../../shared/format";
import type { WidgetDesign, WidgetSettings, WidgetVersion } from "../../../shared/types";
import { useSaving } from "../../forms/saving";
import { Button } from "../../kit/button";
import { LoadTrouble, Wrong } from "../../kit/states";
import { designPart } from "../../words/settings";

/** Every design that was on the pages: who put it there and when, to look at and to put back. */
export function HistoryPart({
  kept,
  look,
}: {
  kept: WidgetSettings;
  look: (design: WidgetDesign | undefined) => void;
}) {
  const queries = useQueryClient();
  const saving = useSaving();
  const history = useQuery({
    queryKey: ["setup", "widget-history", kept.key],
    queryFn: () => ask(api.GET("/api/setup/widgets/{key}/history", { params: { path: { key: kept.key } } })),
  });
  useEffect(() => () => look(undefined), [look]);
  if (history.isError) return <LoadTrouble error={history.error} again={() => void history.refetch()} />;
  if (!history.data) return <p aria-busy="true" />;
  const restore = (v: WidgetVersion) =>
    void saving.run(
      async () => {
        await ask(
          api.POST("/api/setup/widgets/{key}/restore", {
            params: { path: { key: kept.key } },
            body: { former: v.version, version: kept.version },
          }),
        );
        look(undefined);
        await queries.invalidateQueries({ queryKey: ["setup"] });
      },
      t`The version of ${dayAndTime(v.at)} is on the pages again`,
    );
  return (
    <>
      <Wrong
        words={
          saving.trouble ||
          (saving.amiss ? t`It cannot be put back as it was: something it names is gone.` : "")
        }
      />
      {history.data.length === 0 ? (
        <p className="nothing">
          <Trans>Nothing has been published since this widget was made.</Trans>
        </p>
      ) : null}
      <ol className="history">
        {history.data.map((v, i) => (
          <li key={v.version}>
            <b>{dayAndTime(v.at)}</b>
            <span>
              {v.by || t`a command`}
              {v.restores ? ` · ${t`put back`}` : ""}
              {v.version === kept.version && !kept.off ? ` · ${t`on the pages now`}` : ""}
            </span>
            <small>{v.changed.length > 0 ? listed(v.changed.map(designPart)) : null}</small>
            <span className="acts">
              <Button onClick={() => look(v.design)}>
                <Trans>Look at it</Trans>
              </Button>
              {i > 0 ? (
                <Button onClick={() => restore(v)} disabled={saving.busy}>
                  <Trans>Put back</Trans>
                </Button>
              ) : null}
            </span>
          </li>
        ))}
      </ol>
      {kept.draft ? (
        <p className="about">
          <Trans>The draft is kept when a version is put back.</Trans>
        </p>
      ) : null}
    </>
  );
}
