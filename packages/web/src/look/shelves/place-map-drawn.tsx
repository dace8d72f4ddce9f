import { MapChart } from 'echarts/charts';
import { GeoComponent } from 'echarts/components';
import { registerMap, use as register } from 'echarts/core';
import { useCallback } from 'react';
import { feature } from 'topojson-client';
import type { GeometryCollection, Topology } from 'topojson-specification';
import world from 'world-atlas/land-50m.json';
import { Chart, type Inks } from '../../design/chart.js';
import type { Place } from './place-map.js';

register([MapChart, GeoComponent]);
const topology = world as unknown as Topology<{ land: GeometryCollection }>;
registerMap('land', feature(topology, topology.objects.land) as never);

/** So many degrees of land and water stand around what is shown, so that one sees where that is. */
const MARGIN = 25;

/** Land as it lies, and a dot for each place. */
export function PlaceMapDrawn({ places, label }: { places: readonly Place[]; label: string }) {
  const draw = useCallback(
    ({ ink, line, soft }: Inks) => {
      const [west, east] = ends(places.map(({ longitude }) => longitude));
      const [south, north] = ends(places.map(({ latitude }) => latitude));
      return {
        geo: {
          map: 'land',
          roam: true,
          silent: true,
          boundingCoords: [
            [west, Math.min(north, 85)],
            [east, Math.max(south, -85)],
          ],
          itemStyle: { areaColor: line, borderColor: soft, borderWidth: 0.5 },
        },
        series: [
          {
            type: 'scatter',
            coordinateSystem: 'geo',
            symbolSize: 9,
            itemStyle: { color: ink, opacity: 0.6 },
            data: places.map(({ latitude, longitude }) => [longitude, latitude]),
          },
        ],
      };
    },
    [places],
  );
  return <Chart label={label} height={280} draw={draw} />;
}

const ends = (all: readonly number[]): [number, number] => [
  Math.min(...all) - MARGIN,
  Math.max(...all) + MARGIN,
];
