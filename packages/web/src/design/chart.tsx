import { BarChart, LineChart, ScatterChart } from 'echarts/charts';
import { GridComponent } from 'echarts/components';
import { init, use as register, type EChartsCoreOption } from 'echarts/core';
import { SVGRenderer } from 'echarts/renderers';
import { useEffect, useRef } from 'react';

register([BarChart, LineChart, ScatterChart, GridComponent, SVGRenderer]);

/** The inks of the present theme, for what is drawn and not styled. */
export interface Inks {
  ink: string;
  soft: string;
  line: string;
  danger: string;
  proven: string;
}

function inks(): Inks {
  const style = getComputedStyle(document.documentElement);
  const of = (name: string) => style.getPropertyValue(`--${name}`).trim();
  return {
    ink: of('ink'),
    soft: of('soft'),
    line: of('line'),
    danger: of('danger'),
    proven: of('proven'),
  };
}

/** A chart in the product's few inks; drawn again when the theme or the width changes. `label` says what it shows. */
export function Chart({
  label,
  height,
  draw,
}: {
  label: string;
  height: number;
  draw: (inks: Inks) => EChartsCoreOption;
}) {
  const place = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (!place.current) return;
    const chart = init(place.current, null, { renderer: 'svg' });
    const paint = () =>
      chart.setOption(
        {
          animation: false,
          textStyle: { fontFamily: getComputedStyle(document.body).fontFamily, fontSize: 13 },
          ...draw(inks()),
        },
        true,
      );
    paint();
    const resized = new ResizeObserver(() => {
      // Of what is folded away nothing is drawn.
      if ((place.current?.clientWidth ?? 0) > 0) chart.resize();
    });
    resized.observe(place.current);
    const themed = new MutationObserver(paint);
    themed.observe(document.documentElement, { attributeFilter: ['data-theme'] });
    return () => {
      resized.disconnect();
      themed.disconnect();
      chart.dispose();
    };
  }, [draw]);
  return <div ref={place} role="img" aria-label={label} style={{ height }} />;
}
