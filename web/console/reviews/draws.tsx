import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "react-router";

import { api, ask } from "../../shared/api";
import { dayAndTime } from "../../shared/format";
import type { ReviewDraw, ReviewForm } from "../../shared/types";
import { useEditing } from "../forms/editing";
import { SaveBar } from "../forms/parts";
import { useSaving } from "../forms/saving";
import { Button } from "../kit/button";
import { sayTrouble } from "../kit/say";
import { LoadTrouble, Wrong } from "../kit/states";
import { Table } from "../kit/table";
import { TextField } from "../kit/text-field";
import { useMine } from "./link";
import { pointsWords, spreadWords } from "./words";

/** For leads: what was drawn, what reviews add up to, and by what chats are reviewed. */
export function Draws() {
  const draws = useQuery({
    queryKey: ["reviews", "draws"],
    queryFn: () => ask(api.GET("/api/review-draws")),
  });
  const mine = useMine();
  return (
    <main className="reviews">
      <header>
        <h1>
          <Trans>Reviews</Trans>
        </h1>
        {(mine.data ?? []).length > 0 ? (
          <Button variant="outlined" component={Link} to="/reviews/mine">
            <Trans>Reviews of my chats</Trans>
          </Button>
        ) : null}
        <Button variant="outlined" component={Link} to="/transcripts">
          <Trans>Draw chats in the transcripts</Trans>
        </Button>
      </header>
      {draws.isError ? <LoadTrouble error={draws.error} again={() => void draws.refetch()} /> : null}
      {draws.data?.length === 0 ? (
        <p className="nothing">
          <Trans>
            Nothing has been drawn yet. Narrow the transcripts to a week or a department, then choose Reviews,
            Draw from this search.
          </Trans>
        </p>
      ) : null}
      {draws.data && draws.data.length > 0 ? <List draws={draws.data} /> : null}
      <Results />
      <Form />
    </main>
  );
}

function List({ draws }: { draws: ReviewDraw[] }) {
  const queries = useQueryClient();
  const end = async (d: ReviewDraw) => {
    try {
      await ask(api.DELETE("/api/review-draws/{id}", { params: { path: { id: d.id } } }));
    } catch (error) {
      sayTrouble(error);
    }
    await queries.invalidateQueries({ queryKey: ["reviews"] });
  };
  return (
    <section aria-labelledby="draws-head">
      <h2 id="draws-head">
        <Trans>Drawn</Trans>
      </h2>
      <Table
        className="bans"
        rows={draws}
        keyOf={(d) => d.id}
        columns={[
          {
            head: t`Name`,
            cell: (d) => <Link to={`/reviews/${d.id}`}>{d.name || dayAndTime(d.createdAt)}</Link>,
          },
          { head: t`By`, cell: (d) => d.by },
          { head: t`When`, cell: (d) => dayAndTime(d.createdAt) },
          {
            head: t`How`,
            cell: (d) =>
              t`${d.size} of ${plural(d.candidates, { one: "# chat", other: "# chats" })}, as many of each ${spreadWords(d.spread)}, lot ${d.seed}`,
          },
          {
            head: t`Reviewed`,
            cell: (d) => t`${d.sent} of ${d.sent + d.left}`,
          },
          {
            head: t`Put away`,
            silent: true,
            cell: (d) =>
              d.left > 0 ? (
                <Button onClick={() => void end(d)}>
                  <Trans>Put away the rest</Trans>
                </Button>
              ) : null,
          },
        ]}
      />
    </section>
  );
}

function Results() {
  const results = useQuery({
    queryKey: ["reviews", "results"],
    queryFn: () => ask(api.GET("/api/review-results")),
  });
  if (!results.data || results.data.length === 0) return null;
  return (
    <section aria-labelledby="results-head">
      <h2 id="results-head">
        <Trans>Last 90 days</Trans>
      </h2>
      <Table
        className="bans"
        rows={results.data}
        keyOf={(r) => r.operatorId}
        columns={[
          { head: t`Operator`, cell: (r) => r.name },
          { head: t`Reviews`, cell: (r) => r.reviews },
          { head: t`Points`, cell: (r) => pointsWords(r) },
        ]}
      />
      <p className="hint">
        <Trans>
          A point that is met is one, a partly met one a half; points that do not apply are left out. A
          handful of reviews says little about a person: talk about the chats, not the number.
        </Trans>
      </p>
    </section>
  );
}

function Form() {
  const form = useQuery({
    queryKey: ["reviews", "form"],
    queryFn: () => ask(api.GET("/api/review-form")),
  });
  if (!form.data) return null;
  return <Points kept={form.data} />;
}

function Points({ kept }: { kept: ReviewForm }) {
  const queries = useQueryClient();
  const saving = useSaving();
  const editing = useEditing("review-form", kept);
  const save = () =>
    void saving.run(
      async () => {
        editing.saved(await ask(api.PUT("/api/review-form", { body: editing.value })));
        await queries.invalidateQueries({ queryKey: ["reviews", "form"] });
      },
      t`Points saved`,
    );
  return (
    <section aria-labelledby="form-head" className="points">
      <h2 id="form-head">
        <Trans>Points of a review</Trans>
      </h2>
      <TextField
        multiline
        fullWidth
        minRows={4}
        value={editing.value.points.join("\n")}
        onChange={(e) => {
          editing.change({ points: e.target.value.split("\n") });
          saving.clear();
        }}
        slotProps={{ htmlInput: { "aria-label": t`Points, one a line`, dir: "auto" } }}
      />
      <p className="hint">
        <Trans>One a line, up to 8. Reviews that are written keep the points of then.</Trans>
      </p>
      <Wrong words={saving.wrongAt("points")} />
      <SaveBar saving={saving} editing={editing} save={save} />
    </section>
  );
}
