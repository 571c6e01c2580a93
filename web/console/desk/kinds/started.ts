import { t } from "@lingui/core/macro";

import { kind } from "../kind";

export default kind("Door", ({ event, visitor }) => {
  const page = event.page ?? "";
  const { invitation, writtenBy } = event;
  if (writtenBy) return t`${writtenBy} writes to ${visitor || t`the visitor`} by email`;
  if (event.way) {
    const name = visitor || t`Somebody`;
    if (event.way.kind === "text") return t`${name} wrote by text message`;
    const { subject } = event;
    return subject ? t`${name} wrote by email: “${subject}”` : t`${name} wrote by email`;
  }
  if (invitation) {
    const name = visitor || t`The visitor`;
    return page
      ? t`${name} answers the invitation of ${invitation.name} on ${page}: “${invitation.text}”`
      : t`${name} answers the invitation of ${invitation.name}: “${invitation.text}”`;
  }
  if (!visitor) return page ? t`A visitor started a chat on ${page}` : t`A visitor started a chat`;
  return page ? t`${visitor} started a chat on ${page}` : t`${visitor} started a chat`;
});
