import { t } from "@lingui/core/macro";

import { visitorField } from "../../shared/visitor-problems";
import { sentenceWords } from "./sentences";

/**
 * What the server finds wrong at a field, in the language that is spoken. Its text
 * is English and the same each time: that is its code. A test of the server holds
 * this list complete.
 */
const words = new Map([
  ["Choose a day.", t`Choose a day.`],
  ["Choose between 1 and 92 days.", t`Choose between 1 and 92 days.`],
  [
    "There are more than 20,000 chats in this period. Choose a shorter one.",
    t`There are more than 20,000 chats in this period. Choose a shorter one.`,
  ],
  [
    "This is no configuration of Stoop. Choose a file that was downloaded here.",
    t`This is no configuration of Stoop. Choose a file that was downloaded here.`,
  ],
  [
    "There is something behind the end of the configuration.",
    t`There is something behind the end of the configuration.`,
  ],
  [
    "Something in this file cannot be as it is. Look at what would change.",
    t`Something in this file cannot be as it is. Look at what would change.`,
  ],
  ["There can be up to 30 automatic messages.", t`There can be up to 30 automatic messages.`],
  [
    "Each message needs a name of its own, of small letters, digits and hyphens.",
    t`Each message needs a name of its own, of small letters, digits and hyphens.`,
  ],
  ["Choose when it is said.", t`Choose when it is said.`],
  ["This must be between 5 seconds and a day.", t`This must be between 5 seconds and a day.`],
  ["Write what is said.", t`Write what is said.`],
  ["A message can have up to 500 characters.", t`A message can have up to 500 characters.`],
  ["There can be up to 20 conditions.", t`There can be up to 20 conditions.`],
  [
    "This is not known of a chat that has begun. Ask for something else.",
    t`This is not known of a chat that has begun. Ask for something else.`,
  ],
  ["Choose by hand or by use.", t`Choose by hand or by use.`],
  ["There can be up to 60 FAQs.", t`There can be up to 60 FAQs.`],
  ["This article is in the list already.", t`This article is in the list already.`],
  [
    "Visitors cannot read this article any more. Take it out.",
    t`Visitors cannot read this article any more. Take it out.`,
  ],
  ["Choose one of the languages.", t`Choose one of the languages.`],
  ["A time must be like 2026-12-24T18:30:00Z.", t`A time must be like 2026-12-24T18:30:00Z.`],
  [
    "Without two-factor your password is too weak. Change it first.",
    t`Without two-factor your password is too weak. Change it first.`,
  ],
  ["Log in, or ask an admin to invite you.", t`Log in, or ask an admin to invite you.`],
  [
    "Enter the code of your authenticator app, or one of your recovery codes.",
    t`Enter the code of your authenticator app, or one of your recovery codes.`,
  ],
  [
    "Codes change every 30 seconds and work once. Check your device's clock, then enter the newest one.",
    t`Codes change every 30 seconds and work once. Check your device's clock, then enter the newest one.`,
  ],
  ["Switch it off first to use another device.", t`Switch it off first to use another device.`],
  ["Begin again.", t`Begin again.`],
  ["Switch it on first.", t`Switch it on first.`],
  [
    "It was used already, withdrawn, or is older than a week. Ask for another one.",
    t`It was used already, withdrawn, or is older than a week. Ask for another one.`,
  ],
  ["They can log in with their password.", t`They can log in with their password.`],
  ["There is nothing at this address.", t`There is nothing at this address.`],
  ["This code is not right. Enter the newest one.", t`This code is not right. Enter the newest one.`],
  ["The password can have up to 200 characters.", t`The password can have up to 200 characters.`],
  [
    "The password holds something that is no character.",
    t`The password holds something that is no character.`,
  ],
  [
    "This password is used by many people. Choose one that nobody else has.",
    t`This password is used by many people. Choose one that nobody else has.`,
  ],
  [
    "This password repeats the same few characters. Choose words instead.",
    t`This password repeats the same few characters. Choose words instead.`,
  ],
  [
    "This password is made of your name, your email or the name of this program. Choose other words.",
    t`This password is made of your name, your email or the name of this program. Choose other words.`,
  ],
  [
    "This is no picture that can be used. Choose a PNG or JPEG of up to 4 MB.",
    t`This is no picture that can be used. Choose a PNG or JPEG of up to 4 MB.`,
  ],
  ["There can be up to 50 options.", t`There can be up to 50 options.`],
  [
    "A label and the words of an error can have up to 500 characters.",
    t`A label and the words of an error can have up to 500 characters.`,
  ],
  ["A form can ask for up to 30 things.", t`A form can ask for up to 30 things.`],
  ["A pattern can have up to 300 characters.", t`A pattern can have up to 300 characters.`],
  [
    "It is shown depending on a field that does not stand before it. Move it down, or choose another field.",
    t`It is shown depending on a field that does not stand before it. Move it down, or choose another field.`,
  ],
  [
    "Choose each language once, among those that there are.",
    t`Choose each language once, among those that there are.`,
  ],
  ["The launcher text can have up to 60 characters.", t`The launcher text can have up to 60 characters.`],
  ["A greeting can have up to 500 characters.", t`A greeting can have up to 500 characters.`],
  ["Choose left or right.", t`Choose left or right.`],
  ["There can be up to 50 sites.", t`There can be up to 50 sites.`],
  [
    "The answer target must be between 1 second and a day.",
    t`The answer target must be between 1 second and a day.`,
  ],
  ["This must be between 5 seconds and an hour.", t`This must be between 5 seconds and an hour.`],
  ["The distance must be between 0 and 400 pixels.", t`The distance must be between 0 and 400 pixels.`],
  ["Choose small, usual or large.", t`Choose small, usual or large.`],
  ["Choose one of the icons.", t`Choose one of the icons.`],
  ["There can be up to 6 links.", t`There can be up to 6 links.`],
  [
    "A link must be an address like https://www.example.com/about.",
    t`A link must be an address like https://www.example.com/about.`,
  ],
  ["Say where the link leads, in up to 40 characters.", t`Say where the link leads, in up to 40 characters.`],
  [
    "With these patterns the chat would not show on any page. Take out the one that fits all of them.",
    t`With these patterns the chat would not show on any page. Take out the one that fits all of them.`,
  ],
  [
    "An admin must set a mail server first: STOOP_SMTP.",
    t`An admin must set a mail server first: STOOP_SMTP.`,
  ],
  [
    "There is no department yet that could answer. Make one first.",
    t`There is no department yet that could answer. Make one first.`,
  ],
  [
    "One of the departments no longer exists. Choose again.",
    t`One of the departments no longer exists. Choose again.`,
  ],
  [
    "Say on which site it stands, like https://www.example.com.",
    t`Say on which site it stands, like https://www.example.com.`,
  ],
  ["This is not an email address.", t`This is not an email address.`],
  ["Give the search a name.", t`Give the search a name.`],
  ["This search cannot be kept.", t`This search cannot be kept.`],
  ["You keep 100 searches already. Remove one first.", t`You keep 100 searches already. Remove one first.`],
  ["Choose somebody of the team.", t`Choose somebody of the team.`],
  ["There is no such department.", t`There is no such department.`],
  ["They are not a member of this department.", t`They are not a member of this department.`],
  ["A shift ends after it begins, within a day.", t`A shift ends after it begins, within a day.`],
  ["Write times as 2026-11-28 08:00.", t`Write times as 2026-11-28 08:00.`],
  [
    "Choose between 1 and 3650 days, or nothing for ever.",
    t`Choose between 1 and 3650 days, or nothing for ever.`,
  ],
  ["Each point may stand there once.", t`Each point may stand there once.`],
  ["A review has between 1 and 8 points.", t`A review has between 1 and 8 points.`],
  ["Score a point or write something first.", t`Score a point or write something first.`],
  ["It has no time.", t`It has no time.`],
  ["It repeats. Write each shift by itself.", t`It repeats. Write each shift by itself.`],
  ["The shifts of one file lie within a year.", t`The shifts of one file lie within a year.`],
  ["A colour must be like #9c3f27.", t`A colour must be like #9c3f27.`],
  [
    "A field's name begins with a letter and holds small letters, digits, - and _ only.",
    t`A field's name begins with a letter and holds small letters, digits, - and _ only.`,
  ],
  ["A language is a code like en or pt-BR.", t`A language is a code like en or pt-BR.`],
  [
    "A quotation mark stands in a field that does not begin with one. Put the field in quotation marks and double those within.",
    t`A quotation mark stands in a field that does not begin with one. Put the field in quotation marks and double those within.`,
  ],
  [
    "A quotation mark that opens a field is not closed, or something follows the closing one.",
    t`A quotation mark that opens a field is not closed, or something follows the closing one.`,
  ],
  [
    "A shortcut is one word, without spaces or semicolons.",
    t`A shortcut is one word, without spaces or semicolons.`,
  ],
  [
    "A site must be an address like https://www.example.com, without a path.",
    t`A site must be an address like https://www.example.com, without a path.`,
  ],
  ["A value is missing.", t`A value is missing.`],
  ["Another contact has this email.", t`Another contact has this email.`],
  ["Another department has this name.", t`Another department has this name.`],
  [
    "Another response for the same people has this shortcut.",
    t`Another response for the same people has this shortcut.`,
  ],
  ["Check both and try again.", t`Check both and try again.`],
  ["Choose email, phone or either.", t`Choose email, phone or either.`],
  ["Choose operator, lead or admin.", t`Choose operator, lead or admin.`],
  ["Choose own, department or common.", t`Choose own, department or common.`],
  ["Choose somebody else, or a department.", t`Choose somebody else, or a department.`],
  [
    "Choose what happens: a department, an operator or a priority.",
    t`Choose what happens: a department, an operator or a priority.`,
  ],
  [
    "Choose when chats overflow: after some seconds, above some number, or while closed.",
    t`Choose when chats overflow: after some seconds, above some number, or while closed.`,
  ],
  [
    "Choose whether all or any of the conditions must match.",
    t`Choose whether all or any of the conditions must match.`,
  ],
  ["Choose who can read it.", t`Choose who can read it.`],
  ["Choose who it is for.", t`Choose who it is for.`],
  ["Describe it in a message instead.", t`Describe it in a message instead.`],
  [
    "Each field needs a name of its own, of letters and digits, as the booking system calls it.",
    t`Each field needs a name of its own, of letters and digits, as the booking system calls it.`,
  ],
  ["Each field needs a name of its own.", t`Each field needs a name of its own.`],
  ["Each option needs words of its own.", t`Each option needs words of its own.`],
  ["Each outcome needs a name of its own.", t`Each outcome needs a name of its own.`],
  ["Enter a reason, for colleagues who read it later.", t`Enter a reason, for colleagues who read it later.`],
  ["Enter the launcher text.", t`Enter the launcher text.`],
  ["Enter the name that colleagues and visitors see.", t`Enter the name that colleagues and visitors see.`],
  ["Give at least one option to choose from.", t`Give at least one option to choose from.`],
  ["Give it a name, for the team.", t`Give it a name, for the team.`],
  ["Give it a shortcut.", t`Give it a shortcut.`],
  ["Give it a title.", t`Give it a title.`],
  ["Give the department a name.", t`Give the department a name.`],
  ["Give the field a label.", t`Give the field a label.`],
  ["Give the room a name.", t`Give the room a name.`],
  [
    "Give the rule a name. It is shown as the reason on each chat.",
    t`Give the rule a name. It is shown as the reason on each chat.`,
  ],
  ["Give these hours a name.", t`Give these hours a name.`],
  [
    "Leave a message and we will reply as soon as somebody is back.",
    t`Leave a message and we will reply as soon as somebody is back.`,
  ],
  [
    "One of the departments no longer exists. Reload the page.",
    t`One of the departments no longer exists. Reload the page.`,
  ],
  [
    "One of the members has left the team, or is listed twice. Reload the page.",
    t`One of the members has left the team, or is listed twice. Reload the page.`,
  ],
  [
    "Only leads can change shared responses. Use the scope own.",
    t`Only leads can change shared responses. Use the scope own.`,
  ],
  [
    "Send the rest in an hour, or describe them in a message.",
    t`Send the rest in an hour, or describe them in a message.`,
  ],
  ["Somebody in the team already has this email.", t`Somebody in the team already has this email.`],
  ["Take it anyway, or leave it to a colleague.", t`Take it anyway, or leave it to a colleague.`],
  ["The article is too long. Split it in two.", t`The article is too long. Split it in two.`],
  [
    "The capacity must be between 1 and 50. Leave it empty for the department's number.",
    t`The capacity must be between 1 and 50. Leave it empty for the department's number.`,
  ],
  [
    "The day must be one of the week, 0 for Sunday to 6 for Saturday.",
    t`The day must be one of the week, 0 for Sunday to 6 for Saturday.`,
  ],
  ["The head start must be between 1 and 240 minutes.", t`The head start must be between 1 and 240 minutes.`],
  ["The largest file must be between 1 and 2000 MB.", t`The largest file must be between 1 and 2000 MB.`],
  [
    "The longest message must be between 100 and 20,000 characters.",
    t`The longest message must be between 100 and 20,000 characters.`,
  ],
  ["The percentage must be between 1 and 100.", t`The percentage must be between 1 and 100.`],
  [
    "Their version is shown beside yours. Choose which to keep.",
    t`Their version is shown beside yours. Choose which to keep.`,
  ],
  ["There are other hours with this name.", t`There are other hours with this name.`],
  ["There can be up to 20 fields.", t`There can be up to 20 fields.`],
  [
    "There must be a default department. Make another one the default instead.",
    t`There must be a default department. Make another one the default instead.`,
  ],
  ["There must be between 1 and 30 outcomes.", t`There must be between 1 and 30 outcomes.`],
  [
    "These hours never open. Add a period, or remove the hours to be open around the clock.",
    t`These hours never open. Add a period, or remove the hours to be open around the clock.`,
  ],
  ["These hours no longer exist. Choose others.", t`These hours no longer exist. Choose others.`],
  ["This day does not exist in the calendar.", t`This day does not exist in the calendar.`],
  [
    "This department no longer exists. Choose another one.",
    t`This department no longer exists. Choose another one.`,
  ],
  [
    "This is neither an address like 192.0.2.44 nor a range like 192.0.2.0/24.",
    t`This is neither an address like 192.0.2.44 nor a range like 192.0.2.0/24.`,
  ],
  [
    "This is not a currency code. Use three letters, like EUR.",
    t`This is not a currency code. Use three letters, like EUR.`,
  ],
  ["Only leads can change who looks after a contact.", t`Only leads can change who looks after a contact.`],
  ["This must be a date, like 2026-03-31.", t`This must be a date, like 2026-03-31.`],
  ["This is not your current password.", t`This is not your current password.`],
  [
    "This is the last admin. Make somebody else an admin first.",
    t`This is the last admin. Make somebody else an admin first.`,
  ],
  [
    "This operator is no longer in the team. Choose another one.",
    t`This operator is no longer in the team. Choose another one.`,
  ],
  [
    "This outcome is no longer in the list. Choose another one.",
    t`This outcome is no longer in the list. Choose another one.`,
  ],
  [
    "This range is too wide: it would shut out very many people.",
    t`This range is too wide: it would shut out very many people.`,
  ],
  ["Times must lie between 00:00 and 24:00.", t`Times must lie between 00:00 and 24:00.`],
  [
    "We need your email or phone number so we can reply.",
    t`We need your email or phone number so we can reply.`,
  ],
  [
    "With a capacity of 0, nobody would ever get a chat. Choose at least 1; operators who need a break set themselves to away.",
    t`With a capacity of 0, nobody would ever get a chat. Choose at least 1; operators who need a break set themselves to away.`,
  ],
  ["Write the answer.", t`Write the answer.`],
  ["Write the article.", t`Write the article.`],
  [
    "You cannot deactivate yourself. Ask another admin.",
    t`You cannot deactivate yourself. Ask another admin.`,
  ],
  [
    "A pattern begins with a slash, a star or https://, like /freight*.",
    t`A pattern begins with a slash, a star or https://, like /freight*.`,
  ],
  ["An invitation has up to 300 characters.", t`An invitation has up to 300 characters.`],
  [
    "Each field needs a name of its own, of letters and digits, as the site calls it.",
    t`Each field needs a name of its own, of letters and digits, as the site calls it.`,
  ],
  ["Each topic needs a name of its own.", t`Each topic needs a name of its own.`],
  ["Give the rule a name. Reports name it.", t`Give the rule a name. Reports name it.`],
  ["Points must be between 0 and 100.", t`Points must be between 0 and 100.`],
  ["Retire one that no site signs with any more.", t`Retire one that no site signs with any more.`],
  ["Say for whom tokens must be, like stoop.", t`Say for whom tokens must be, like stoop.`],
  ["Say what visitors are asked.", t`Say what visitors are asked.`],
  ["Say which pages are about this, like /freight*.", t`Say which pages are about this, like /freight*.`],
  [
    "Say whom to invite: a rule without conditions and pages invites everybody at once.",
    t`Say whom to invite: a rule without conditions and pages invites everybody at once.`,
  ],
  ["The share must be between 1 and 100.", t`The share must be between 1 and 100.`],
  ["The silence must be between 1 and 1440 minutes.", t`The silence must be between 1 and 1440 minutes.`],
  ["The step must be between 0 and 1000000.", t`The step must be between 0 and 1000000.`],
  ["There can be up to 20 patterns.", t`There can be up to 20 patterns.`],
  ["There can be up to 30 fields.", t`There can be up to 30 fields.`],
  ["There can be up to 30 topics.", t`There can be up to 30 topics.`],
  ["There can be up to 50 parameters.", t`There can be up to 50 parameters.`],
  ["There can be up to 50 rules.", t`There can be up to 50 rules.`],
  [
    "This is not a known time zone, like Europe/Copenhagen.",
    t`This is not a known time zone, like Europe/Copenhagen.`,
  ],
  [
    "Visits are kept for up to 3650 days, or for ever with 0.",
    t`Visits are kept for up to 3650 days, or for ever with 0.`,
  ],
  ["Write what the visitor reads.", t`Write what the visitor reads.`],
  ["Give a name, an email or a phone number.", t`Give a name, an email or a phone number.`],
  [
    "Nothing of the file was stored. Choose it again to see what it changes now.",
    t`Nothing of the file was stored. Choose it again to see what it changes now.`,
  ],
  [
    "It is not a vCard of version 3 or 4. Save it as one of these.",
    t`It is not a vCard of version 3 or 4. Save it as one of these.`,
  ],
  [
    "The file breaks off or goes wrong here; what follows was not read.",
    t`The file breaks off or goes wrong here; what follows was not read.`,
  ],
  ["This contact has no email. Add one first.", t`This contact has no email. Add one first.`],
  ["Choose another one to merge with.", t`Choose another one to merge with.`],
  ["Leave at least one with it.", t`Leave at least one with it.`],
  ["They have different ids there. They stay apart.", t`They have different ids there. They stay apart.`],
  ["Write there, or wait until it has ended.", t`Write there, or wait until it has ended.`],
]);

/** Says what is wrong at a field; nothing for a text that is not known here. */
export function fieldWords(text: string): string | undefined {
  return words.get(text) ?? visitorField(text) ?? sentenceWords(text);
}
