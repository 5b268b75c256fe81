import { definePreset } from "@primeuix/themes";
import Aura from "@primeuix/themes/aura";

const tide = {
  50: "#eff6f6",
  100: "#d6e6e6",
  200: "#accdcf",
  300: "#7fb0b4",
  400: "#4c8f95",
  500: "#1f6f78",
  600: "#1b626a",
  700: "#17535a",
  800: "#124147",
  900: "#0d3035",
  950: "#082023",
};
const paper = {
  0: "#ffffff",
  50: "#fbfaf7",
  100: "#f3f0e9",
  200: "#e7e2d7",
  300: "#d3ccbd",
  400: "#a9a597",
  500: "#7b8288",
  600: "#4a5258",
  700: "#363d43",
  800: "#272d32",
  900: "#1e2328",
  950: "#14181b",
};

/** Paper, ink, brass and tide; hairlines and small corners. */
export const WorkshopPreset = definePreset(Aura, {
  primitive: {
    borderRadius: {
      none: "0",
      xs: "2px",
      sm: "3px",
      md: "3px",
      lg: "3px",
      xl: "4px",
    },
  },
  semantic: {
    primary: tide,
    focusRing: {
      width: "2px",
      style: "solid",
      color: "{primary.500}",
      offset: "1px",
    },
    formField: {
      paddingX: "8px",
      paddingY: "4px",
      sm: { fontSize: "13px", paddingX: "8px", paddingY: "3px" },
    },
    colorScheme: {
      light: {
        surface: paper,
        primary: {
          color: "{primary.500}",
          contrastColor: "#ffffff",
          hoverColor: "{primary.600}",
          activeColor: "{primary.700}",
        },
        text: { color: "#1e2328", mutedColor: "#4a5258" },
        formField: {
          background: "#fbfaf7",
          borderColor: "#d3ccbd",
          color: "#1e2328",
          placeholderColor: "#646b71",
        },
      },
      dark: {
        surface: {
          0: "#ffffff",
          50: "#f3f0e9",
          100: "#e7e2d7",
          200: "#d3ccbd",
          300: "#a9a597",
          400: "#8d9499",
          500: "#6b7379",
          600: "#4a5258",
          700: "#3a4248",
          800: "#2b3238",
          900: "#20262b",
          950: "#181d21",
        },
        primary: {
          color: "#5fb0b8",
          contrastColor: "#0d1b1d",
          hoverColor: "#7cc2c9",
          activeColor: "#96d0d6",
        },
      },
    },
  },
});
