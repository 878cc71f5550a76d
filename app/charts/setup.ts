import {
  BarController,
  BarElement,
  CategoryScale,
  Chart,
  Filler,
  Legend,
  LinearScale,
  LineController,
  LineElement,
  LogarithmicScale,
  PointElement,
  ScatterController,
  Tooltip,
} from "chart.js";
import annotation from "chartjs-plugin-annotation";
import zoom from "chartjs-plugin-zoom";
import { MatrixController, MatrixElement } from "chartjs-chart-matrix";
import { paneLine } from "./pane-line";
import { priceBars } from "./price-bars";

// Loaded in the browser only: the zoom plugin needs a window.
Chart.register(
  BarController,
  BarElement,
  CategoryScale,
  LinearScale,
  LineController,
  LineElement,
  LogarithmicScale,
  PointElement,
  ScatterController,
  Filler,
  Legend,
  Tooltip,
  annotation,
  zoom,
  MatrixController,
  MatrixElement,
  priceBars,
  paneLine,
);
Chart.defaults.font.family = '"Figtree Variable", system-ui, sans-serif';
Chart.defaults.font.size = 12;
Chart.defaults.animation = false;

export { Chart };
