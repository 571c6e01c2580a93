// Icons of screens that come later than the first; see icons.tsx.
import { icon } from "./icons";

/** Icons of later screens. */
export const LaterIcons = {
  Calendar: icon(<path d="M2.500 3.500h11v10h-11ZM2.500 6.500h11M5.500 2v3M10.500 2v3" />),
  Star: icon(
    <path d="m8 2 1.800 3.900 4.200.500-3.100 2.900.800 4.200L8 11.400l-3.700 2.100.800-4.200L2 6.400l4.200-.500Z" />,
  ),
  Print: icon(<path d="M4.500 6V2.500h7V6M4.500 11.500h-2V6h11v5.500h-2M4.500 9.500h7v4h-7Z" />),
  Rise: icon(<path d="M8 13V3.500M4 7.500l4-4 4 4" />),
  Fall: icon(<path d="M8 3v9.500M4 8.500l4 4 4-4" />),
  Phone: icon(<path d="M4.500 1.500h7v13h-7ZM7 12.500h2" />),
  Even: icon(<path d="M3 8h10" />),
};
