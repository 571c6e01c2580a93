import { t } from "@lingui/core/macro";
import { AdapterDayjs } from "@mui/x-date-pickers/AdapterDayjs";
import { DatePicker } from "@mui/x-date-pickers/DatePicker";
import { LocalizationProvider } from "@mui/x-date-pickers/LocalizationProvider";
import dayjs from "dayjs";

import "dayjs/locale/de";

import { language } from "../../shared/speak";

interface Props {
  label: string;
  /** A day as year-month-day (ISO 8601); empty for none. */
  value: string;
  change: (value: string) => void;
}

// What the picker says by itself.
const words = {
  previousMonth: t`Previous month`,
  nextMonth: t`Next month`,
  openDatePickerDialogue: (day: string | null) => (day ? t`Choose a day, now ${day}` : t`Choose a day`),
  calendarViewSwitchingButtonAriaLabel: (view: string) =>
    view === "year" ? t`Choose a day of the year` : t`Choose a year`,
  year: t`Year`,
  month: t`Month`,
  day: t`Day`,
};

/** A day, typed part by part or picked from a calendar. */
export function DateField({ label, value, change }: Props) {
  const day = dayjs(value);
  return (
    <LocalizationProvider
      dateAdapter={AdapterDayjs}
      adapterLocale={language() === "de" ? "de" : "en"}
      localeText={words}
    >
      <DatePicker
        value={day.isValid() ? day : null}
        format="YYYY-MM-DD"
        onChange={(picked) => {
          // What is typed half is no day yet.
          if (picked?.isValid()) change(picked.format("YYYY-MM-DD"));
        }}
        slotProps={{ textField: { size: "small", "aria-label": label } }}
      />
    </LocalizationProvider>
  );
}
