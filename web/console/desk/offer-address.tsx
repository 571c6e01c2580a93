import "./lane-note.css";

import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";

import { api, ask } from "../../shared/api";
import { Icons } from "../icons";
import { sayTrouble } from "../kit/say";
import { offerPage } from "./offer-page";

const settled = 300;

interface Props {
  chatId: string;
  /** The address that is being typed. */
  address: string;
  onOffered: () => void;
}

/** Offers to show the visitor the page whose address is being typed, if it carries the chat. */
export default function OfferAddress({ chatId, address, onOffered }: Props) {
  const [typed, setTyped] = useState("");
  useEffect(() => {
    const timer = setTimeout(() => setTyped(address), settled);
    return () => clearTimeout(timer);
  }, [address]);
  const found = useQuery({
    queryKey: ["page-at", chatId, typed],
    queryFn: () =>
      ask(api.GET("/api/chats/{id}/page", { params: { path: { id: chatId }, query: { url: typed } } })),
    enabled: typed !== "" && typed === address,
    staleTime: Infinity,
  }).data;
  if (!found?.carried || typed !== address) return null;
  return (
    <p className="mode">
      <Icons.Page />{" "}
      <span dir="auto">
        <Trans>
          Show the visitor <b>{found.title}</b>?
        </Trans>
      </span>{" "}
      <button
        type="button"
        className="link"
        onClick={() => void offerPage(chatId, address).then(onOffered, sayTrouble)}
      >
        <Trans>Offer it</Trans>
      </button>
    </p>
  );
}
