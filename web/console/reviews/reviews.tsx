import "../setup/setup.css";
import "../transcripts/transcripts.css";
import "./reviews.css";

import { t } from "@lingui/core/macro";
import { useParams } from "react-router";

import { useMe } from "../desk/provider";
import { usePageTitle } from "../kit/page-title";
import { Draws } from "./draws";
import { Mine } from "./mine";
import { Reading } from "./reading";

/** Reviews: leads read a fair sample of chats and write to who held them; operators read that. */
export default function ReviewsPage() {
  usePageTitle(t`Reviews`);
  const me = useMe();
  const { draw, id } = useParams();
  if (me.role === "operator") return <Mine />;
  if (draw === "mine") return <Mine />;
  return draw ? <Reading key={draw} draw={draw} id={id} /> : <Draws />;
}
