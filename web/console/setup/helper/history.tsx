import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery, useQueryClient } from "@tanstack/react-query";

import { api, ask } from "../../../shared/api";
import { dayAndTime } from "../../../shared/format";
import type { FlowView } from "../../../shared/types";
import { useSaving } from "../../forms/saving";
import { Button } from "../../kit/button";
import { LoadTrouble, Wrong } from "../../kit/states";

/** Every version of a flow that answered: who published it and when, to put back. */
export function FlowHistory({ kept, changed }: { kept: FlowView; changed: boolean }) {
  const queries = useQueryClient();
  const saving = useSaving();
  const history = useQuery({
    queryKey: ["setup", "flow-history", kept.id],
    queryFn: () => ask(api.GET("/api/setup/flows/{id}/history", { params: { path: { id: kept.id } } })),
  });
  if (history.isError) return <LoadTrouble error={history.error} again={() => void history.refetch()} />;
  if (!history.data) return <p aria-busy="true" />;
  const restore = (version: number) =>
    void saving.run(
      async () => {
        await ask(
          api.POST("/api/setup/flows/{id}/restore", {
            params: { path: { id: kept.id } },
            body: { version, draftVersion: kept.draftVersion },
          }),
        );
        await queries.invalidateQueries({ queryKey: ["setup"] });
      },
      t`Version ${version} answers again`,
    );
  return (
    <>
      <Wrong words={saving.trouble} />
      {history.data.length === 0 ? (
        <p className="nothing">
          <Trans>Nothing has been published yet.</Trans>
        </p>
      ) : null}
      {changed || kept.differs ? (
        <p className="about">
          <Trans>Putting a version back takes the place of the draft.</Trans>
        </p>
      ) : null}
      <ol className="history">
        {history.data.map((v, i) => (
          <li key={v.version}>
            <b>
              <Trans>Version {v.version}</Trans>
            </b>
            <span>
              {dayAndTime(v.at)} · {v.by || t`a command`}
              {v.restores ? ` · ${t`put back`}` : ""}
              {v.version === kept.liveVersion ? ` · ${t`answers now`}` : ""}
            </span>
            <small>
              <Trans>{v.flow.steps.length} steps</Trans>
            </small>
            <span className="acts">
              {i > 0 ? (
                <Button onClick={() => restore(v.version)} disabled={saving.busy || changed}>
                  <Trans>Put back</Trans>
                </Button>
              ) : null}
            </span>
          </li>
        ))}
      </ol>
    </>
  );
}
