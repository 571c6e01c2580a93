import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";

import { api, ask } from "../../shared/api";
import { wordsFor } from "../../shared/problem";
import { useMe } from "../desk/provider";
import { Icons } from "../icons";
import { Button, IconButton } from "../kit/button";
import { Tick } from "../kit/choice";
import { Dialog, DialogActions, DialogContent, DialogTitle } from "../kit/dialog";
import { TextInput } from "../kit/field";
import { Menu, MenuItem } from "../kit/menu";
import { say, sayTrouble } from "../kit/say";
import { Wrong } from "../kit/states";

/** What is searched; its page is at the address of that name. */
type Place = "transcripts" | "tickets";

/** Searches that are kept: the own and those of the team, and how to keep this one. */
export function Saved({ address, place = "transcripts" }: { address: URLSearchParams; place?: Place }) {
  const me = useMe();
  const queries = useQueryClient();
  const navigate = useNavigate();
  const [at, setAt] = useState<HTMLElement | null>(null);
  const [saving, setSaving] = useState(false);
  const saved = useQuery({
    queryKey: ["saved-searches", place],
    queryFn: () => ask(api.GET("/api/saved-searches", { params: { query: { place } } })),
  });
  const list = saved.data ?? [];
  const remove = async (id: string) => {
    try {
      await ask(api.DELETE("/api/saved-searches/{id}", { params: { path: { id } } }));
    } catch (error) {
      sayTrouble(error);
    }
    await queries.invalidateQueries({ queryKey: ["saved-searches"] });
  };
  const text = address.toString();
  return (
    <>
      <Button variant="outlined" aria-haspopup="menu" onClick={(event) => setAt(event.currentTarget)}>
        <Trans>Searches</Trans>
      </Button>
      <Menu anchorEl={at} open={at !== null} onClose={() => setAt(null)}>
        <MenuItem
          disabled={!text}
          onClick={() => {
            setAt(null);
            setSaving(true);
          }}
        >
          <Icons.Plus /> <Trans>Keep this search</Trans>
        </MenuItem>
        <MenuItem
          disabled={!text}
          onClick={() => {
            setAt(null);
            void navigator.clipboard
              .writeText(`${location.origin}/${place}?${text}`)
              .then(() => say(t`The link to this search is copied.`, "success"))
              .catch(() => say(t`The link could not be copied: it stands in the address bar.`, "error"));
          }}
        >
          <Icons.Copy /> <Trans>Copy a link to it</Trans>
        </MenuItem>
        {list.map((s) => (
          <MenuItem
            key={s.id}
            selected={s.address === text}
            onClick={() => {
              setAt(null);
              void navigate(`/${place}?${s.address}`);
            }}
          >
            <bdi className="saved-name">{s.name}</bdi>
            {s.shared ? <small>{s.mine ? t`shared` : t`of the team`}</small> : null}
            {s.mine || me.role !== "operator" ? (
              <IconButton
                aria-label={t`Remove ${s.name}`}
                onClick={(event) => {
                  event.stopPropagation();
                  void remove(s.id);
                }}
              >
                <Icons.Bin />
              </IconButton>
            ) : null}
          </MenuItem>
        ))}
        {saved.isError ? <p className="nothing-found">{wordsFor(saved.error)}</p> : null}
      </Menu>
      {saving ? <Keep place={place} address={text} done={() => setSaving(false)} /> : null}
    </>
  );
}

function Keep({ place, address, done }: { place: Place; address: string; done: () => void }) {
  const queries = useQueryClient();
  const [name, setName] = useState("");
  const [shared, setShared] = useState(false);
  const [trouble, setTrouble] = useState<string>();
  const save = async () => {
    try {
      await ask(api.POST("/api/saved-searches", { body: { place, name, address, shared } }));
      await queries.invalidateQueries({ queryKey: ["saved-searches"] });
      done();
    } catch (error) {
      setTrouble(wordsFor(error));
    }
  };
  return (
    <Dialog open onClose={done} aria-labelledby="keep-title">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          void save();
        }}
      >
        <DialogTitle id="keep-title">
          <Trans>Keep this search</Trans>
        </DialogTitle>
        <DialogContent className="keep-search">
          <TextInput label={t`Name`} value={name} change={setName} most={80} />
          <Tick checked={shared} change={setShared}>
            <Trans>For the whole team</Trans>
          </Tick>
          <Wrong words={trouble} />
        </DialogContent>
        <DialogActions>
          <Button onClick={done}>
            <Trans>Not now</Trans>
          </Button>
          <Button type="submit" variant="contained">
            <Trans>Keep</Trans>
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}
