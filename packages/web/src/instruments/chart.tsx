import type { EChartsCoreOption, ECharts } from "echarts/core";
import { useEffect, useRef } from "react";

/** What the theme's colours are at present; for options that are made anew when it changes. */
export function themeColours() {
  const style = getComputedStyle(document.documentElement);
  const [quiet, rule, accent, text] = ["--quiet", "--rule", "--color-accent", "--color-base-content"].map((name) =>
    style.getPropertyValue(name).trim(),
  );
  return { quiet, rule, accent, text };
}

/** A chart by ECharts, loaded when first needed; `describe` says in words what it shows. */
export function Chart({ option, height, describe }: { option: EChartsCoreOption; height: number; describe: string }) {
  const box = useRef<HTMLDivElement>(null);
  const latest = useRef(option);
  const chart = useRef<ECharts | null>(null);
  useEffect(() => {
    latest.current = option;
    chart.current?.setOption(option, true);
  }, [option]);
  useEffect(() => {
    let live = true;
    void import("./echarts.ts").then(({ startChart }) => {
      if (!live || !box.current) return;
      chart.current = startChart(box.current);
      chart.current.setOption(latest.current);
    });
    return () => {
      live = false;
      chart.current?.dispose();
      chart.current = null;
    };
  }, []);
  return <div ref={box} role="img" aria-label={describe} style={{ height }} className="w-full" />;
}
