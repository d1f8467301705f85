import type { SetEntry, TonesRead } from "@yelm/core";
import { useMemo } from "react";
import { Chart, themeColours } from "../instruments/chart.tsx";
import { useLook } from "../theme/theme.ts";

const CHART_PX = 190;

/** A rung of the ladder: from the dark to the light tenth, with the middle. */
export function Rung({ tones: { dark, middle, light }, accent }: { tones: TonesRead; accent: boolean }) {
  const x = (zone: number) => 4 + zone * 15.2;
  return (
    <svg
      width={162}
      height={22}
      role="img"
      aria-label={`Dark zone ${dark.toFixed(1)}, middle ${middle.toFixed(1)}, light ${light.toFixed(1)}`}
    >
      {Array.from({ length: 11 }, (_, zone) => (
        <line key={zone} x1={x(zone)} x2={x(zone)} y1={8} y2={14} stroke="currentColor" strokeOpacity={0.25} />
      ))}
      <line x1={x(dark)} x2={x(light)} y1={11} y2={11} stroke="currentColor" strokeWidth={3} strokeOpacity={0.6} />
      <line
        x1={x(middle)}
        x2={x(middle)}
        y1={4}
        y2={18}
        stroke={accent ? "var(--color-accent)" : "currentColor"}
        strokeWidth={2}
      />
    </svg>
  );
}

/** Dark, middle and light of all prints over each other. */
export function ZonesChart({ entries }: { entries: readonly SetEntry[] }) {
  const { theme } = useLook();
  const option = useMemo(() => {
    const { quiet, rule: line, accent, text } = themeColours();
    const series = (key: keyof TonesRead, look: object) => ({
      type: "line" as const,
      data: entries.map(({ tones }) => Number(tones[key].toFixed(2))),
      symbol: "circle",
      symbolSize: 5,
      silent: true,
      ...look,
    });
    return {
      theme,
      animation: false,
      grid: { left: 30, right: 12, top: 8, bottom: 24 },
      xAxis: {
        type: "category",
        data: entries.map((_, i) => String(i + 1)),
        axisLine: { lineStyle: { color: line } },
        axisTick: { show: false },
        axisLabel: { color: quiet, fontSize: 11 },
      },
      yAxis: {
        type: "value",
        min: 0,
        max: 10,
        interval: 2,
        splitLine: { lineStyle: { color: line, opacity: 0.35 } },
        axisLabel: {
          color: quiet,
          fontSize: 11,
          formatter: (zone: number) => ["0", "", "II", "", "IV", "", "VI", "", "VIII", "", "X"][zone],
        },
      },
      series: [
        series("light", { lineStyle: { color: quiet, width: 1 }, itemStyle: { color: quiet } }),
        series("middle", { lineStyle: { color: accent, width: 1.5 }, itemStyle: { color: accent } }),
        series("dark", { lineStyle: { color: text, width: 1 }, itemStyle: { color: text } }),
      ],
    };
  }, [entries, theme]);
  return (
    <Chart
      option={option}
      height={CHART_PX}
      describe="Zones of the dark, the middle and the light tones of every print"
    />
  );
}
