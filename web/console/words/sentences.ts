import { t } from "@lingui/core/macro";

import { locale } from "../../shared/speak";

type Values = [string, string, string, string, string];

/**
 * What the server says with values in it, in the language that is spoken. The
 * English pattern is its code; what is more particular stands first. A test of the
 * server holds this list complete.
 */
const patterns: [string, (values: Values) => string][] = [
  ["There can be {0} lines at the most.", ([n]) => t`There can be ${n} lines at the most.`],
  [
    "{0} texts are not translated; they are said in the first language.",
    ([n]) => t`${n} texts are not translated; they are said in the first language.`,
  ],
  ["There is no step {0}.", ([id]) => t`There is no step ${id}.`],
  ["A step of kind {0} is not known.", ([kind]) => t`A step of kind ${kind} is not known.`],
  [
    "It answers in {0}. Choose another flow there first.",
    ([widgets]) => t`It answers in ${widgets}. Choose another flow there first.`,
  ],
  ["This is no JSON: {0}.", ([why]) => t`This is no JSON: ${why}.`],
  [
    "This file was made by a newer Stoop (version {0} of the form, this one reads {1}). Update Stoop first.",
    ([theirs, ours]) =>
      t`This file was made by a newer Stoop (version ${theirs} of the form, this one reads ${ours}). Update Stoop first.`,
  ],
  ["The file cannot be taken in: {0}.", ([why]) => t`The file cannot be taken in: ${why}.`],
  [
    "{0} ({1}) is not in the team here and is left out. Invite them first.",
    ([name, email]) => t`${name} (${email}) is not in the team here and is left out. Invite them first.`,
  ],
  [
    "The rule “{0}” sends to somebody who is not in the team here and is left out.",
    ([name]) => t`The rule “${name}” sends to somebody who is not in the team here and is left out.`,
  ],
  [
    "The helper of {0} means a flow that does not answer here and is left out.",
    ([name]) => t`The helper of ${name} means a flow that does not answer here and is left out.`,
  ],
  [
    "An FAQ of {0} means an article that visitors cannot read here and is left out.",
    ([name]) => t`An FAQ of ${name} means an article that visitors cannot read here and is left out.`,
  ],
  [
    "The widget {0} has another key here: {1}.",
    ([name, key]) => t`The widget ${name} has another key here: ${key}.`,
  ],
  [
    "The password must have at least {0} characters. A few words are easy to remember.",
    ([least]) => t`The password must have at least ${least} characters. A few words are easy to remember.`,
  ],
  [
    "It is shown if {0} is {1}, which is not one of its options any more.",
    ([name, more]) => t`It is shown if ${name} is ${more}, which is not one of its options any more.`,
  ],
  ["There are no texts in {0}.", ([name]) => t`There are no texts in ${name}.`],
  ["This text can have up to {0} characters.", ([name]) => t`This text can have up to ${name} characters.`],
  ["Keep {0} in this text: it is filled in.", ([name]) => t`Keep ${name} in this text: it is filled in.`],
  [
    "There is no variable {0}. There are: {1}.",
    ([name, more]) => t`There is no variable ${name}. There are: ${more}.`,
  ],
  ["{0} is on pages now. Switch it off first.", ([name]) => t`${name} is on pages now. Switch it off first.`],
  ["{0} must be a colour, like #241b16.", ([name]) => t`${name} must be a colour, like #241b16.`],
  ["{0} must be a length, like 16px.", ([name]) => t`${name} must be a length, like 16px.`],
  [
    "{0} must be names of typefaces, like Georgia, serif.",
    ([name]) => t`${name} must be names of typefaces, like Georgia, serif.`,
  ],
  [
    "The wait until leads are alerted must be between {0} and {1} seconds.",
    ([low, high]) => t`The wait until leads are alerted must be between ${low} and ${high} seconds.`,
  ],
  [
    "The time with nobody in must be between {0} and {1} seconds.",
    ([low, high]) => t`The time with nobody in must be between ${low} and ${high} seconds.`,
  ],
  ["Two fields are named {0}.", ([name]) => t`Two fields are named ${name}.`],
  ["{0} is not a kind of field.", ([kind]) => t`${kind} is not a kind of field.`],
  ["The pattern cannot be read: {0}.", ([why]) => t`The pattern cannot be read: ${why}.`],
  [
    "{0} is not a known time zone, like Europe/Copenhagen.",
    ([zone]) => t`${zone} is not a known time zone, like Europe/Copenhagen.`,
  ],
  [
    "{0} from {1} to {2} stands there twice.",
    ([day, from, to]) => t`${dayName(day)} from ${from} to ${to} stands there twice.`,
  ],
  [
    "{0} from {1} to {2} overlaps {3} to {4}. Make one period of both.",
    ([day, from, to, start, end]) =>
      t`${dayName(day)} from ${from} to ${to} overlaps ${start} to ${end}. Make one period of both.`,
  ],
  [
    "{0} to {1} overlaps {2} to {3}. Make one period of both.",
    ([from, to, start, end]) => t`${from} to ${to} overlaps ${start} to ${end}. Make one period of both.`,
  ],
  ["{0} has an exception already.", ([day]) => t`${day} has an exception already.`],
  [
    "From and to are both {0}. For a whole day write 00:00 to 24:00.",
    ([time]) => t`From and to are both ${time}. For a whole day write 00:00 to 24:00.`,
  ],
  ["{0} is not a time of day like 08:30.", ([time]) => t`${time} is not a time of day like 08:30.`],
  ["{0} is not a day like 2026-12-24.", ([day]) => t`${day} is not a day like 2026-12-24.`],
  [
    "The shortcut has {0} characters; the limit is {1}.",
    ([n, limit]) => t`The shortcut has ${n} characters; the limit is ${limit}.`,
  ],
  [
    "The answer has {0} characters; the limit is {1}.",
    ([n, limit]) => t`The answer has ${n} characters; the limit is ${limit}.`,
  ],
  [
    "The folder's name has {0} characters; the limit is {1}.",
    ([n, limit]) => t`The folder's name has ${n} characters; the limit is ${limit}.`,
  ],
  ["It has {0} fields, the head line {1}.", ([n, head]) => t`It has ${n} fields, the head line ${head}.`],
  [
    "Line {0} has the same shortcut for the same people.",
    ([line]) => t`Line ${line} has the same shortcut for the same people.`,
  ],
  [
    "There are answers of this shortcut in {0}. Add a column language to the file, to say which one it is.",
    ([languages]) =>
      t`There are answers of this shortcut in ${languages}. Add a column language to the file, to say which one it is.`,
  ],
  ["There is no department “{0}”.", ([name]) => t`There is no department “${name}”.`],
  [
    "The priority must be between {0} and {1}.",
    ([low, high]) => t`The priority must be between ${low} and ${high}.`,
  ],
  [
    "The pattern {0} cannot be read: {1}.",
    ([pattern, why]) => t`The pattern ${pattern} cannot be read: ${why}.`,
  ],
  ["{0} is not a number.", ([value]) => t`${value} is not a number.`],
  ["{0} is not a known comparison.", ([value]) => t`${value} is not a known comparison.`],
  ["{0} is not a known field.", ([value]) => t`${value} is not a known field.`],
  [
    "{0} overflows to a department that does not exist any more.",
    ([name]) => t`${name} overflows to a department that does not exist any more.`,
  ],
  [
    "The overflow runs in a circle: {0}{1}. Take one step out.",
    ([first, rest]) => t`The overflow runs in a circle: ${first}${rest}. Take one step out.`,
  ],
  [
    "The capacity must be between {0} and {1}.",
    ([low, high]) => t`The capacity must be between ${low} and ${high}.`,
  ],
  [
    "The answer target must be between {0} and {1} seconds.",
    ([low, high]) => t`The answer target must be between ${low} and ${high} seconds.`,
  ],
  [
    "An offer must last between {0} and {1} seconds.",
    ([low, high]) => t`An offer must last between ${low} and ${high} seconds.`,
  ],
  [
    "The number of offers let by must be between {0} and {1}.",
    ([low, high]) => t`The number of offers let by must be between ${low} and ${high}.`,
  ],
  [
    "The time for taking over must be between {0} and {1} seconds.",
    ([low, high]) => t`The time for taking over must be between ${low} and ${high} seconds.`,
  ],
  [
    "The time until a reminder must be between {0} and {1} seconds.",
    ([low, high]) => t`The time until a reminder must be between ${low} and ${high} seconds.`,
  ],
  [
    "The time until the end must be between {0} and {1} seconds.",
    ([low, high]) => t`The time until the end must be between ${low} and ${high} seconds.`,
  ],
  [
    "The wrap-up must last between {0} and {1} seconds.",
    ([low, high]) => t`The wrap-up must last between ${low} and ${high} seconds.`,
  ],
  [
    "The wait before chats overflow must be between {0} and {1} seconds.",
    ([low, high]) => t`The wait before chats overflow must be between ${low} and ${high} seconds.`,
  ],
  ["This must be between {0} and {1}.", ([low, high]) => t`This must be between ${low} and ${high}.`],
  [
    "The number of waiting chats must be between {0} and {1}.",
    ([low, high]) => t`The number of waiting chats must be between ${low} and ${high}.`,
  ],
  [
    "The password must have at least {0} characters.",
    ([least]) => t`The password must have at least ${least} characters.`,
  ],
  [
    "{0} is the default department. Make another one the default first.",
    ([name]) => t`${name} is the default department. Make another one the default first.`,
  ],
  [
    "Chats of {0} are still open: {1}. End them or hand them on first.",
    ([name, n]) => t`Chats of ${name} are still open: ${n}. End them or hand them on first.`,
  ],
  [
    "{0} is still used by {1}. Change that first.",
    ([name, users]) => t`${name} is still used by ${usersOf(users)}. Change that first.`,
  ],
  [
    "These hours are still used by {0}. Give them other hours first.",
    ([users]) => t`These hours are still used by ${users}. Give them other hours first.`,
  ],
  ["This file cannot be used: {0}.", ([why]) => t`This file cannot be used: ${sentenceWords(why) ?? why}.`],
  [
    "There is no placeholder {{0}}. Use one from the list, or write {{ for a brace.",
    ([name]) =>
      t`There is no placeholder ${`{${name}}`}. Use one from the list, or write ${"{{"} for a brace.`,
  ],
  [
    "“{0}” is not a placeholder and would be sent as it is. Use one from the list, or write {{ for a brace.",
    ([words]) =>
      t`“${words}” is not a placeholder and would be sent as it is. Use one from the list, or write ${"{{"} for a brace.`,
  ],
  [
    "This is not an iCalendar file: it does not begin with BEGIN:VCALENDAR.",
    () => t`This is not an iCalendar file: it does not begin with BEGIN:VCALENDAR.`,
  ],
  [
    "The calendar could not be read: line {0} is broken or cut off: “{1}”.",
    ([line, words]) => t`The calendar could not be read: line ${line} is broken or cut off: “${words}”.`,
  ],
  [
    "The calendar could not be read: it ends in line {0}, before END:VCALENDAR. Export it again.",
    ([line]) =>
      t`The calendar could not be read: it ends in line ${line}, before END:VCALENDAR. Export it again.`,
  ],
  [
    "The calendar could not be read: its BEGIN and END lines do not match ({0}).",
    ([why]) => t`The calendar could not be read: its BEGIN and END lines do not match (${why}).`,
  ],
  ["The calendar could not be read: {0}.", ([why]) => t`The calendar could not be read: ${why}.`],
  [
    "Extra dates of “{0}” were left out: add them as exceptions.",
    ([title]) => t`Extra dates of “${title}” were left out: add them as exceptions.`,
  ],
  [
    "A cancelled date of “{0}” could not be read: {1}.",
    ([title, date]) => t`A cancelled date of “${title}” could not be read: ${date}.`,
  ],
  ["“{0}” was left out: it has no start.", ([title]) => t`“${title}” was left out: it has no start.`],
  ["“{0}” was left out: it is cancelled.", ([title]) => t`“${title}” was left out: it is cancelled.`],
  [
    "“{0}” was left out: its start is not a date and time.",
    ([title]) => t`“${title}” was left out: its start is not a date and time.`,
  ],
  [
    "“{0}” was left out: it is in {1}, the others are in {2}.",
    ([title, zone, others]) => t`“${title}” was left out: it is in ${zone}, the others are in ${others}.`,
  ],
  [
    "“{0}” was left out: it does not last between a minute and a day.",
    ([title]) => t`“${title}” was left out: it does not last between a minute and a day.`,
  ],
  [
    "“{0}” was left out: it does not repeat every week without end.",
    ([title]) => t`“${title}” was left out: it does not repeat every week without end.`,
  ],
  [
    "“{0}” was left out: it does not repeat every day without end.",
    ([title]) => t`“${title}” was left out: it does not repeat every day without end.`,
  ],
  [
    "“{0}” was left out: only plain yearly repetition can be read.",
    ([title]) => t`“${title}” was left out: only plain yearly repetition can be read.`,
  ],
  [
    "“{0}” was left out: its repetition cannot be turned into weekly hours.",
    ([title]) => t`“${title}” was left out: its repetition cannot be turned into weekly hours.`,
  ],
  [
    "“{0}” was left out: the occurrence that it changes could not be read.",
    ([title]) => t`“${title}” was left out: the occurrence that it changes could not be read.`,
  ],
  [
    "“{0}” was left out: its day could not be read.",
    ([title]) => t`“${title}” was left out: its day could not be read.`,
  ],
  [
    "“{0}” was left out: it does not last whole days.",
    ([title]) => t`“${title}” was left out: it does not last whole days.`,
  ],
  [
    "“{0}” was left out: single days of a repeated all-day event cannot be read; add them as exceptions.",
    ([title]) =>
      t`“${title}” was left out: single days of a repeated all-day event cannot be read; add them as exceptions.`,
  ],
  [
    "“{0}” was left out: an all-day event can be read once or every year only.",
    ([title]) => t`“${title}” was left out: an all-day event can be read once or every year only.`,
  ],
  [
    "“{0}” was left out: it lasts longer than a year.",
    ([title]) => t`“${title}” was left out: it lasts longer than a year.`,
  ],
  [
    "“{0}” was left out: it ends in a zone that is not known, {1}.",
    ([title, zone]) => t`“${title}” was left out: it ends in a zone that is not known, ${zone}.`,
  ],
  [
    "“{0}” was left out: its end could not be read.",
    ([title]) => t`“${title}” was left out: its end could not be read.`,
  ],
  [
    "“{0}” was left out: its length could not be read.",
    ([title]) => t`“${title}” was left out: its length could not be read.`,
  ],
  ["“{0}” was left out: it has no end.", ([title]) => t`“${title}” was left out: it has no end.`],
  ["Wait {0} seconds, then try again.", ([seconds]) => t`Wait ${seconds} seconds, then try again.`],
  [
    "the first line must name the columns: at least shortcut and text",
    () => t`the first line must name the columns: at least shortcut and text`,
  ],
  [
    "the first line must name the columns: name, email or phone at least",
    () => t`the first line must name the columns: name, email or phone at least`,
  ],
  ["it has more than 20,000 contacts; split it", () => t`it has more than 20,000 contacts; split it`],
  ["Entry {0} is the same contact.", ([n]) => t`Entry ${n} is the same contact.`],
  ["more than {0} lines are wrong", ([n]) => t`more than ${n} lines are wrong`],
  ["the rule “{0}”", ([name]) => t`the rule “${name}”`],
  ["the overflow of {0}", ([name]) => t`the overflow of ${name}`],
  ["the widget {0}", ([name]) => t`the widget ${name}`],
];

const longest = 1000;

let readers: [RegExp, (values: Values) => string][] | undefined;

/** Says a sentence of the server's; nothing for one that is not known here. */
export function sentenceWords(text: string): string | undefined {
  if (text.length > longest) return undefined; // several open places in a long text take their time
  readers ??= patterns.map(([pattern, say]) => [reader(pattern), say]);
  for (const [read, say] of readers) {
    const found = read.exec(text);
    if (found) return say(found.slice(1) as unknown as Values);
  }
  return undefined;
}

function reader(pattern: string): RegExp {
  const escaped = pattern.replace(/[.*+?^$()|[\]\\{}]/g, "\\$&");
  return new RegExp(`^${escaped.replace(/\\\{\d\\\}/g, "(.*?)")}$`, "s");
}

const days = ["Sunday", "Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday"];

function dayName(english: string): string {
  const at = days.indexOf(english);
  if (at < 0) return english;
  // The fourth of January 1970 was a Sunday.
  return new Intl.DateTimeFormat(locale(), { weekday: "long", timeZone: "UTC" }).format(
    Date.UTC(1970, 0, 4 + at),
  );
}

/** Says what uses something, each by what it is. */
function usersOf(list: string): string {
  return list
    .split(", ")
    .map((user) => sentenceWords(user) ?? user)
    .join(", ");
}
