import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";

import { api, ask } from "../../shared/api";
import { wordsFor } from "../../shared/problem";
import type { ReviewDraw } from "../../shared/types";
import { askedOf } from "../filters/asked";
import { Button } from "../kit/button";
import { Dialog, DialogActions, DialogContent, DialogTitle } from "../kit/dialog";
import { NumberField, TextInput } from "../kit/field";
import { Select } from "../kit/select";
import { Wrong } from "../kit/states";
import { spreadWords } from "./words";

const spreads = ["operator", "rating", "length", "outcome"] as const;

/** Draws a fair sample of the chats that a search of the transcripts finds. */
export function DrawDialog({ address, close }: { address: URLSearchParams; close: () => void }) {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [name, setName] = useState("");
  const [size, setSize] = useState(10);
  const [spread, setSpread] = useState<ReviewDraw["spread"]>("operator");
  const [seed, setSeed] = useState("");
  const [busy, setBusy] = useState(false);
  const [trouble, setTrouble] = useState<string>();
  const draw = async () => {
    setBusy(true);
    setTrouble(undefined);
    try {
      const drawn = await ask(
        api.POST("/api/review-draws", {
          params: { query: askedOf(address) },
          body: { name, size, spread, seed, address: address.toString() },
        }),
      );
      await queries.invalidateQueries({ queryKey: ["reviews"] });
      void navigate(`/reviews/${drawn.id}`);
    } catch (error) {
      setTrouble(wordsFor(error));
      setBusy(false);
    }
  };
  return (
    <Dialog open onClose={close} aria-labelledby="draw-title">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          void draw();
        }}
      >
        <DialogTitle id="draw-title">
          <Trans>Draw chats to review</Trans>
        </DialogTitle>
        <DialogContent className="draw-reviews">
          <p>
            <Trans>
              Answered chats that this search finds are drawn by lot. Words that were searched for do not
              count, only what it is narrowed to.
            </Trans>
          </p>
          <TextInput
            label={t`Name`}
            value={name}
            change={setName}
            placeholder={t`Such as the week and the department`}
            most={120}
          />
          <NumberField
            label={t`How many`}
            unit={t`chats`}
            value={size}
            change={setSize}
            wrong={size < 1 || size > 200 ? t`Choose between 1 and 200.` : undefined}
          />
          <Select
            label={t`As many of each`}
            value={spread}
            change={(v) => setSpread(v as ReviewDraw["spread"])}
            options={spreads.map((value) => ({ value, label: spreadWords(value) }))}
          />
          <TextInput
            label={t`Lot`}
            value={seed}
            change={setSeed}
            placeholder={t`a new one`}
            hint={t`The same lot draws the same chats again`}
            most={60}
          />
          <Wrong words={trouble} />
        </DialogContent>
        <DialogActions>
          <Button onClick={close}>
            <Trans>Not now</Trans>
          </Button>
          <Button type="submit" variant="contained" disabled={busy || size < 1 || size > 200}>
            <Trans>Draw</Trans>
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}
