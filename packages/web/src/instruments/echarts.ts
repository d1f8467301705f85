import { LineChart } from "echarts/charts";
import { GridComponent } from "echarts/components";
import { init, use as register, type ECharts } from "echarts/core";
import { SVGRenderer } from "echarts/renderers";

register([LineChart, GridComponent, SVGRenderer]);

/** Starts an empty chart in a box. */
export function startChart(box: HTMLElement): ECharts {
  return init(box, null, { renderer: "svg" });
}
