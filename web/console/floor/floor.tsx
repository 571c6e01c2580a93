import "./floor.css";

import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { keepPreviousData, useQuery } from "@tanstack/react-query";

import { api, ask } from "../../shared/api";
import { wordsFor } from "../../shared/problem";
import { useMe, useTeam } from "../desk/provider";
import { Button } from "../kit/button";
import { usePageTitle } from "../kit/page-title";
import { Alerts } from "./alerts-list";
import { Hall } from "./hall";
import { InHand } from "./in-hand";

/** The Floor: each department with who waits, for how long, and who is there with how much. */
export default function FloorPage() {
  usePageTitle(t`Floor`);
  const me = useMe();
  const connection = useTeam((s) => s.connection);
  const floor = useQuery({
    queryKey: ["floor"],
    queryFn: () => ask(api.GET("/api/floor")),
    placeholderData: keepPreviousData,
    refetchInterval: 10_000,
    enabled: connection === "live",
  });
  const departments = floor.data?.departments ?? [];
  const leads = me.role !== "operator";
  return (
    <main className="floor">
      <header>
        <h1>
          <Trans>Floor</Trans>
        </h1>
        <p>
          {connection === "live" ? t`Live` : t`No connection. These figures are from before it was lost.`}
        </p>
      </header>
      {floor.isError ? (
        <div className="trouble" role="alert">
          <p>{wordsFor(floor.error)}</p>
          <Button variant="outlined" onClick={() => void floor.refetch()}>
            <Trans>Try again</Trans>
          </Button>
        </div>
      ) : null}
      {floor.isSuccess && departments.length === 0 ? (
        <p className="nothing">
          <Trans>You are not in any department yet. An admin can add you under Setup, Departments.</Trans>
        </p>
      ) : null}
      {leads ? <Alerts /> : null}
      <div className="halls">
        {departments.map((d) => (
          <Hall key={d.id} department={d} />
        ))}
      </div>
      {/* Below what is drawn already: nothing is pushed from under the pointer by what comes later. */}
      {leads && !floor.isPending ? <InHand /> : null}
    </main>
  );
}
