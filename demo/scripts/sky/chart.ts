import { faintStars, fernLines, fernStars, type Star } from './stars';

const lineColor = 'rgb(95 179 122 / 0.7)';

/** Draws the sky to the south on a canvas, at the resolution of the screen. */
export function drawChart(canvas: HTMLCanvasElement): void {
  const pen = canvas.getContext('2d');
  if (!pen) return;
  const scale = window.devicePixelRatio ?? 1;
  const { clientWidth: width, clientHeight: height } = canvas;
  canvas.width = width * scale;
  canvas.height = height * scale;
  pen.scale(scale, scale);

  const place = ({ azimuth, height: up }: Star): [x: number, y: number] => [((azimuth - 90) / 180) * width, height - (up / 80) * height];
  pen.strokeStyle = lineColor;
  for (const [from = 0, to = 0] of fernLines) {
    pen.beginPath();
    pen.moveTo(...place(fernStars[from]!));
    pen.lineTo(...place(fernStars[to]!));
    pen.stroke();
  }
  for (const star of [...faintStars(180), ...fernStars]) {
    const [x, y] = place(star);
    pen.fillStyle = `rgb(244 239 225 / ${0.25 + star.brightness * 0.75})`;
    pen.beginPath();
    pen.arc(x, y, 0.6 + star.brightness * 2, 0, Math.PI * 2);
    pen.fill();
    if (star.name) pen.fillText(star.name, x + 6, y - 6);
  }
}
