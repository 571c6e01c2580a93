import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";

import { api, ask } from "../../shared/api";
import { useMe } from "../desk/provider";
import { Button } from "../kit/button";
import { Menu, MenuItem } from "../kit/menu";
import { DrawDialog } from "./draw-dialog";

/** What leads said of my chats: those that I have not read are counted. */
export function useMine() {
  return useQuery({ queryKey: ["reviews", "mine"], queryFn: () => ask(api.GET("/api/reviews/mine")) });
}

/** From the transcripts to reviews; leads draw from what the search finds. */
export function ReviewsLink({ address }: { address: URLSearchParams }) {
  const me = useMe();
  const navigate = useNavigate();
  const mine = useMine();
  const [at, setAt] = useState<HTMLElement | null>(null);
  const [drawing, setDrawing] = useState(false);
  const unread = (mine.data ?? []).filter((r) => !r.seenAt).length;
  const count = unread > 0 ? <span className="count new">{unread}</span> : null;
  if (me.role === "operator") {
    return (
      <Button variant="outlined" component={Link} to="/reviews" endIcon={count}>
        <Trans>Reviews</Trans>
      </Button>
    );
  }
  return (
    <>
      <Button
        variant="outlined"
        aria-haspopup="menu"
        endIcon={count}
        onClick={(event) => setAt(event.currentTarget)}
      >
        <Trans>Reviews</Trans>
      </Button>
      <Menu anchorEl={at} open={at !== null} onClose={() => setAt(null)} onClick={() => setAt(null)}>
        <MenuItem onClick={() => void navigate("/reviews")}>
          {unread > 0 ? t`All reviews, ${unread} of mine to read` : t`All reviews`}
        </MenuItem>
        <MenuItem onClick={() => setDrawing(true)}>
          <Trans>Draw from this search</Trans>
        </MenuItem>
      </Menu>
      {drawing ? <DrawDialog address={address} close={() => setDrawing(false)} /> : null}
    </>
  );
}
