import {
  filmSpectrum,
  filterSpectrum,
  lightSpectrum,
  SHORTEST_NM,
  STEP_NM,
  type FilmChoice,
  type Spectrum,
} from "@yelm/core";
import { useMemo } from "react";
import { useLook } from "../../theme/theme.ts";
import { Chart } from "../../instruments/chart.tsx";

const HEIGHT = 132;

/** Film sensitivity, filter transmission, and what of the light reaches the film, over the wavelengths. */
export function SpectralChart({ choice }: { choice: FilmChoice }) {
  const { theme } = useLook();
  // The colours are read from the page, which changes them with the theme.
  const option = useMemo(
    () => ({ theme, ...chartOf(choice, getComputedStyle(document.documentElement)) }),
    [choice, theme],
  );
  return (
    <Chart
      option={option}
      height={HEIGHT}
      describe="Sensitivity of the film, transmission of the filter and their product, by wavelength"
    />
  );
}

function chartOf(choice: FilmChoice, style: CSSStyleDeclaration) {
  const colour = (name: string) => style.getPropertyValue(name).trim();
  const [quiet, line, accent, text] = ["--quiet", "--rule", "--color-accent", "--color-base-content"].map(colour);
  const film = filmSpectrum(choice);
  const filter = filterSpectrum(choice);
  const light = lightSpectrum(choice.light);
  const seen = scaled(film.map((s, i) => s * filter[i] * light[i]));
  const points = (spectrum: Spectrum) =>
    Array.from(spectrum, (value, i) => [SHORTEST_NM + STEP_NM * i, Number(value.toFixed(4))]);
  const curve = (spectrum: Spectrum, look: { color: string; type?: "dashed" | "solid"; width?: number }) => ({
    type: "line" as const,
    data: points(spectrum),
    showSymbol: false,
    smooth: 0.3,
    silent: true,
    lineStyle: { width: 1.25, ...look },
  });
  return {
    animation: false,
    grid: { left: 2, right: 4, top: 6, bottom: 20 },
    xAxis: {
      type: "value",
      min: 380,
      max: 830,
      axisLine: { lineStyle: { color: line } },
      axisTick: { show: false },
      splitLine: { show: false },
      axisLabel: { color: quiet, fontSize: 11, customValues: [400, 500, 600, 700, 800], formatter: "{value} nm" },
    },
    yAxis: { type: "value", min: 0, max: 1, show: false },
    series: [
      curve(film, { color: text, width: 1 }),
      ...(choice.filter === "none" ? [] : [curve(filter, { color: quiet, type: "dashed" })]),
      { ...curve(seen, { color: accent, width: 1.5 }), areaStyle: { color: accent, opacity: 0.14 } },
    ],
  };
}

function scaled(spectrum: Spectrum): Spectrum {
  const highest = Math.max(...spectrum);
  return highest > 0 ? spectrum.map((value) => value / highest) : spectrum;
}
