import "./person.css";

import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, ask } from "../../shared/api";
import { wordsFor } from "../../shared/problem";
import { useMe } from "../desk/provider";
import { Icons } from "../icons";
import { Button } from "../kit/button";
import { Tick } from "../kit/choice";
import { Dialog, DialogActions, DialogContent, DialogTitle } from "../kit/dialog";
import { say } from "../kit/say";
import { LoadTrouble, Wrong } from "../kit/states";

interface Who {
  contactId?: string;
  chatId?: string;
}

/** For admins: hands out all that is kept of a person, or deletes it. */
export function PersonKept({ who, name, forgotten }: { who: Who; name: string; forgotten: () => void }) {
  const me = useMe();
  const [open, setOpen] = useState(false);
  if (me.role !== "admin") return null;
  return (
    <>
      <Button variant="outlined" startIcon={<Icons.Person />} onClick={() => setOpen(true)}>
        <Trans>Personal data</Trans>
      </Button>
      {open ? <Kept who={who} name={name} forgotten={forgotten} close={() => setOpen(false)} /> : null}
    </>
  );
}

interface KeptProps {
  who: Who;
  name: string;
  forgotten: () => void;
  close: () => void;
}

function Kept({ who, name, forgotten, close }: KeptProps) {
  const queries = useQueryClient();
  const [claimed, setClaimed] = useState(false);
  const [notes, setNotes] = useState(false);
  const [sure, setSure] = useState(false);
  const [busy, setBusy] = useState(false);
  const [trouble, setTrouble] = useState<string>();
  const kept = useQuery({
    queryKey: ["person-kept", who, claimed],
    queryFn: () => ask(api.POST("/api/people/kept", { body: { ...who, claimed } })),
    // What was ticked stays under the finger while it is counted anew.
    placeholderData: keepPreviousData,
    gcTime: 0,
  });
  const k = kept.data;
  const counted = kept.isSuccess && !kept.isPlaceholderData;
  const lines = k
    ? [
        k.contact ? t`The contact, with ${plural(k.notes, { one: "# note", other: "# notes" })}` : "",
        plural(k.chats, { one: "# chat", other: "# chats" }),
        plural(k.messages, { one: "# message", other: "# messages" }),
        plural(k.tickets, { one: "# ticket", other: "# tickets" }),
        plural(k.files, { one: "# file", other: "# files" }),
        t`${plural(k.visits, { one: "# visit", other: "# visits" })} from ${plural(k.visitors, { one: "# browser", other: "# browsers" })}`,
      ].filter(Boolean)
    : [];
  const forget = async () => {
    setBusy(true);
    setTrouble(undefined);
    try {
      await ask(api.POST("/api/people/forget", { body: { ...who, claimed } }));
      await queries.invalidateQueries();
      say(t`${name} was forgotten.`, "success");
      forgotten();
      close();
    } catch (error) {
      setTrouble(wordsFor(error));
      setBusy(false);
    }
  };
  const query = new URLSearchParams({ ...who, notes: String(notes) });
  return (
    <Dialog open onClose={close} aria-labelledby="person-title" fullWidth maxWidth="sm">
      <DialogTitle id="person-title">
        <Trans>
          What is kept of <bdi>{name}</bdi>
        </Trans>
      </DialogTitle>
      <DialogContent className="person-kept">
        {kept.isError ? <LoadTrouble error={kept.error} again={() => void kept.refetch()} /> : null}
        <ul aria-busy={!counted}>
          {lines.map((words) => (
            <li key={words}>{words}</li>
          ))}
        </ul>
        <h3>
          <Trans>Hand it out</Trans>
        </h3>
        <Tick checked={notes} change={setNotes}>
          <Trans>With the team’s notes, tags and whispers</Trans>
        </Tick>
        <Button
          variant="outlined"
          component="a"
          href={`/api/people/person.zip?${query.toString()}`}
          download
          startIcon={<Icons.Download />}
        >
          <Trans>Download as an archive (page, JSON and files)</Trans>
        </Button>
        <h3>
          <Trans>Forget {name}</Trans>
        </h3>
        <p>
          <Trans>
            All of this is deleted for good. Reports keep what was counted, without names. What colleagues
            wrote in the team talk, and backups of the database, are not touched.
          </Trans>
        </p>
        {k && k.claimed > 0 ? (
          <Tick
            checked={claimed}
            change={(also) => {
              setClaimed(also);
              setSure(false); // of what was listed before
            }}
          >
            {plural(k.claimed, {
              one: "Also # browser from which only this email was given. It may be somebody else’s.",
              other: "Also # browsers from which only this email was given. They may be somebody else’s.",
            })}
          </Tick>
        ) : null}
        <Tick checked={sure} change={setSure}>
          <Trans>I know that this cannot be undone</Trans>
        </Tick>
        <Wrong words={trouble} />
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>
          <Trans>Close</Trans>
        </Button>
        <Button
          variant="contained"
          color="error"
          startIcon={<Icons.Bin />}
          disabled={!sure || busy || !counted}
          onClick={() => void forget()}
        >
          <Trans>Forget {name}</Trans>
        </Button>
      </DialogActions>
    </Dialog>
  );
}
