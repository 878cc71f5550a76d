import { mean } from "#core/metrics";

/** Sample covariance of series of equal length (÷ T − 1). */
export function covariance(series: readonly Float64Array[]): number[][] {
  const centred = series.map(lessMean);
  const n = series[0].length;
  return centred.map((a) => centred.map((b) => dot(a, b) / (n - 1)));
}

const lessMean = (x: Float64Array): Float64Array => {
  const centre = mean(x);
  return x.map((value) => value - centre);
};

function dot(a: Float64Array, b: Float64Array): number {
  let sum = 0;
  for (let t = 0; t < a.length; t++) sum += a[t] * b[t];
  return sum;
}

/**
 * Covariance shrunk towards constant correlation (Ledoit and Wolf 2004, *Honey, I Shrunk the Sample Covariance Matrix*):
 * δF + (1 − δ)S with S ÷ T, δ = max(0, min(1, (π̂ − ρ̂)/γ̂ ÷ T)), 0 where γ̂ = 0.
 */
export function shrunkCovariance(series: readonly Float64Array[]): { matrix: number[][]; delta: number } {
  const y = series.map(lessMean);
  const n = y.length;
  const T = y[0].length;
  const s = y.map((a) => y.map((b) => dot(a, b) / T));
  const root = (i: number, j: number) => Math.sqrt(s[i][i] * s[j][j]);
  let together = 0;
  for (let i = 0; i < n; i++) for (let j = 0; j < n; j++) if (i !== j) together += s[i][j] / root(i, j);
  const average = n > 1 ? together / (n * (n - 1)) : 0;
  const target = s.map((row, i) => row.map((x, j) => (i === j ? x : average * root(i, j))));
  let [pi, rho, gamma] = [0, 0, 0];
  for (let i = 0; i < n; i++)
    for (let j = 0; j < n; j++) {
      let [spread, own, other] = [0, 0, 0];
      for (let t = 0; t < T; t++) {
        const off = y[i][t] * y[j][t] - s[i][j];
        spread += off * off;
        own += (y[i][t] * y[i][t] - s[i][i]) * off;
        other += (y[j][t] * y[j][t] - s[j][j]) * off;
      }
      pi += spread / T;
      rho += i === j ? spread / T : (average / 2) * (Math.sqrt(s[j][j] / s[i][i]) * (own / T) + Math.sqrt(s[i][i] / s[j][j]) * (other / T));
      gamma += (target[i][j] - s[i][j]) ** 2;
    }
  const delta = gamma === 0 ? 0 : Math.max(0, Math.min(1, (pi - rho) / gamma / T));
  return { matrix: s.map((row, i) => row.map((x, j) => delta * target[i][j] + (1 - delta) * x)), delta };
}
