import { t } from "@lingui/core/macro";

import type { Finding } from "../../../shared/types";

/** Says what was found on a page, and what to do about it. */
export function findingWords({ code, what = "" }: Finding, address: string): [string, string] {
  switch (code) {
    case "right":
      return [t`The line is there and works`, t`Open the page and look at its lower edge.`];
    case "missing":
      return [
        t`The line is not on this page`,
        t`Put it before the closing body tag, and publish the site. If the site has a cache, empty it.`,
      ];
    case "commented":
      return [t`The line stands in a comment`, t`Take away the <!-- before it and the --> behind it.`];
    case "inert":
      return [
        t`The line stands where browsers do not run it`,
        t`It is within a template, a noscript or plain text. Paste it as HTML, not as text.`,
      ];
    case "scripted":
      return [
        t`A script of the page may bring the line`,
        t`That cannot be seen from here. Open the page: the sign above says when the first visit came.`,
      ];
    case "twice":
      return [
        t`The line is there more than once`,
        t`Leave only one. The others do nothing but slow the page.`,
      ];
    case "no-key":
      return [t`The line has no key`, t`Copy the whole line again: data-key is missing in it.`];
    case "other-key":
      return [
        t`The line has another key: ${what}`,
        t`It belongs to another widget, or to none. Copy the line of this one.`,
      ];
    case "other-server":
      return [t`The line leads to another server: ${what}`, t`Copy the line again from here.`];
    case "mixed":
      return [
        t`The page is secure, the line is not`,
        t`Browsers block that. Serve Stoop over https and copy the line again.`,
      ];
    case "blocked":
      return [t`The page’s content security policy blocks the chat`, t`Add to the policy: ${what}`];
    case "other-site":
      return [
        t`The widget is not one of the site ${what}`,
        t`Add this address to its sites under Where and when, and publish it.`,
      ];
    case "hidden":
      return [t`The patterns hide it on this page`, t`Look under Where and when if that is meant so.`];
    case "off":
      return [t`The widget is not on pages`, t`Publish it, or switch it on.`];
    case "status":
      return [
        t`The page answers with error ${what}`,
        t`Check the address, and whether one must log in there.`,
      ];
    case "not-html":
      return [t`This is no page but ${what}`, t`Give the address of a page.`];
    case "elsewhere":
      return [
        t`The address leads on and on`,
        t`It is redirected in a circle. Give the address of the page itself.`,
      ];
    case "private":
      return [
        t`This address is in a private network`,
        t`Stoop does not look there. Whoever runs the server can allow it: STOOP_ALLOWED_NETWORKS.`,
      ];
    case "too-large":
      return [t`The page is larger than 2 MB`, t`Choose a smaller page of the same site.`];
    case "wrong-address":
      return [t`This is not an address of a page`, t`It should be like https://www.example.com/fares.`];
    case "certificate":
      return [
        t`The site’s certificate is not valid`,
        t`Browsers warn of it too. Whoever keeps the site must renew it.`,
      ];
    case "unreachable":
      return [
        t`Nothing answers at ${address}`,
        t`Check the address. A site that is not public yet cannot be looked at from here.`,
      ];
  }
  return [code, ""];
}
