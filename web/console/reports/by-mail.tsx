import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, ask } from "../../shared/api";
import { dayAndTime } from "../../shared/format";
import { wordsFor } from "../../shared/problem";
import { Button } from "../kit/button";
import { Tick } from "../kit/choice";
import { Dialog, DialogActions, DialogContent, DialogTitle } from "../kit/dialog";
import { LoadTrouble, Wrong } from "../kit/states";

type Every = "day" | "week" | "month";

/** Lets somebody get the report, narrowed as it is now, by mail: each morning, week or month. */
export function ByMail({ address, done }: { address: URLSearchParams; done: () => void }) {
  const queries = useQueryClient();
  const [trouble, setTrouble] = useState<string>();
  const mine = useQuery({ queryKey: ["report-mails"], queryFn: () => ask(api.GET("/api/report-mails")) });
  const names: Record<Every, string> = {
    day: t`Each morning, of the day before`,
    week: t`On Mondays, of the week before`,
    month: t`On the first, of the month before`,
  };
  const narrowed = new URLSearchParams();
  for (const name of ["department", "operator", "widget", "tag"])
    for (const value of address.getAll(name)) narrowed.append(name, value);
  const set = async (every: Every, on: boolean) => {
    setTrouble(undefined);
    try {
      if (on) await ask(api.PUT("/api/report-mails", { body: { every, address: narrowed.toString() } }));
      else await ask(api.DELETE("/api/report-mails/{every}", { params: { path: { every } } }));
    } catch (error) {
      setTrouble(wordsFor(error));
    }
    await queries.invalidateQueries({ queryKey: ["report-mails"] });
  };
  return (
    <Dialog open onClose={done} aria-labelledby="by-mail-title">
      <DialogTitle id="by-mail-title">
        <Trans>Get this report by email</Trans>
      </DialogTitle>
      <DialogContent className="by-mail">
        {mine.isError ? <LoadTrouble error={mine.error} again={() => void mine.refetch()} /> : null}
        {mine.data
          ? (["day", "week", "month"] as const).map((every) => {
              const ordered = mine.data.find((m) => m.every === every);
              return (
                <div key={every}>
                  <Tick checked={ordered !== undefined} change={(on) => void set(every, on)}>
                    {names[every]}
                  </Tick>
                  {ordered ? <small>{t`next ${dayAndTime(ordered.nextAt)}`}</small> : null}
                </div>
              );
            })
          : null}
        <p className="hint">
          <Trans>
            It goes to your own address, narrowed to the department, operator, widget and tag that are chosen
            now.
          </Trans>
        </p>
        <Wrong words={trouble} />
      </DialogContent>
      <DialogActions>
        <Button onClick={done}>
          <Trans>Close</Trans>
        </Button>
      </DialogActions>
    </Dialog>
  );
}
