// A value on a scale.
export { default as Slider } from "@mui/material/Slider";
