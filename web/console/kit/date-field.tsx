import { AdapterDayjs } from "@mui/x-date-pickers/AdapterDayjs";
import { DatePicker } from "@mui/x-date-pickers/DatePicker";
import { LocalizationProvider } from "@mui/x-date-pickers/LocalizationProvider";
import dayjs from "dayjs";

interface Props {
  label: string;
  /** A day as year-month-day (ISO 8601); empty for none. */
  value: string;
  change: (value: string) => void;
}

/** A day, typed part by part or picked from a calendar. */
export function DateField({ label, value, change }: Props) {
  const day = dayjs(value);
  return (
    <LocalizationProvider dateAdapter={AdapterDayjs}>
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
