import type { EChartsCoreOption, ECharts } from "echarts/core";
import { useEffect, useRef } from "react";

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
