import { t } from "@lingui/core/macro";

/** Names a part of a widget's design. */
export function designPart(name: string): string {
  switch (name) {
    case "name":
      return t`name`;
    case "sites":
      return t`sites`;
    case "title":
      return t`launcher text`;
    case "greeting":
    case "closedGreeting":
      return t`greetings`;
    case "survey":
      return t`question after a chat`;
    case "colour":
      return t`colour`;
    case "corner":
    case "looks":
      return t`looks`;
    case "languages":
      return t`languages`;
    case "texts":
      return t`translations and texts`;
    case "showOn":
    case "hideOn":
    case "hideClosed":
      return t`pages`;
    case "departments":
      return t`departments`;
    case "hoursId":
      return t`hours`;
    case "uninvited":
      return t`invitations`;
    case "helper":
      return t`helper`;
    case "form":
      return t`form`;
    case "reachBy":
      return t`what a message needs`;
    case "draftsSeen":
    case "visitorFiles":
    case "messageLimit":
      return t`what visitors may do`;
    case "answerTargetSeconds":
    case "goneSeconds":
      return t`times`;
  }
  return name;
}

/** Names a kind of thing in the set-up. */
export function settingKind(kind: string): string {
  switch (kind) {
    case "widget":
      return t`Widget`;
    case "flow":
      return t`Helper’s flow`;
    case "department":
      return t`Department`;
    case "hours":
      return t`Hours`;
    case "rules":
      return t`Routing rules`;
    case "acting":
      return t`Rules that act`;
    case "person":
      return t`Person`;
    case "desk":
      return t`Desk`;
    case "site":
      return t`Site`;
    case "site_data":
      return t`Site data`;
    case "retention":
      return t`Retention`;
    case "review_form":
      return t`Review form`;
    case "tickets":
      return t`Tickets`;
    case "channels":
      return t`Text and email`;
    case "invitations":
      return t`Invitations`;
  }
  return kind;
}
