// The temperature chart: least to most as a band, the mean as a line, the limit, gaps left empty.
async function draw(holder) {
  await document.fonts.ready;
  const columns = JSON.parse(document.getElementById("chart-data").textContent);
  const limit = Number(holder.dataset.limit);
  const colour = (name) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();
  const font = `14px ${getComputedStyle(document.body).fontFamily}`;
  const { zone: timeZone, order, clock } = holder.dataset;
  const locale = order === "month" ? "en-US" : "en-GB";
  const hourCycle = clock === "12" ? "h12" : "h23";
  const hour = new Intl.DateTimeFormat(locale, { timeZone, hour: "2-digit", minute: "2-digit", hourCycle });
  const day = new Intl.DateTimeFormat(locale, { timeZone, day: "numeric", month: "short" });
  const midnight = new Intl.DateTimeFormat("en-GB", { timeZone, hour: "2-digit", minute: "2-digit" });
  const when = (tick) => (midnight.format(tick * 1e3) === "00:00" ? day : hour).format(tick * 1e3);
  const axis = { stroke: colour("--ink-2"), font, grid: { stroke: colour("--rule"), width: 1 }, ticks: { stroke: colour("--rule") } };
  const line = (label, name, width) => ({ label, stroke: colour(name), width, points: { show: false }, spanGaps: false });
  const size = () => ({ width: holder.clientWidth, height: Math.min(360, Math.max(220, holder.clientWidth / 3)) });
  const plot = new uPlot({
    ...size(),
    scales: { y: { range: (self, least, most) => [Math.min(least ?? 0, 0) - 0.5, Math.max(most ?? limit, limit) + 1] } },
    tzDate: (seconds) => uPlot.tzDate(new Date(seconds * 1e3), timeZone),
    axes: [{ ...axis, values: (self, ticks) => ticks.map(when) }, { ...axis, values: (self, ticks) => ticks.map((tick) => `${tick} °C`), size: 64 }],
    series: [
      { value: (self, at) => (at ? `${day.format(at * 1e3)} ${hour.format(at * 1e3)}` : "–") },
      line("least", "--rule", 1), line("most", "--caution", 1), line("mean", "--action", 2),
    ],
    bands: [{ series: [2, 1], fill: colour("--soft") }],
    hooks: {
      draw: [(self) => {
        const y = self.valToPos(limit, "y", true);
        self.ctx.strokeStyle = colour("--caution");
        self.ctx.setLineDash([8, 5]);
        self.ctx.beginPath();
        self.ctx.moveTo(self.bbox.left, y);
        self.ctx.lineTo(self.bbox.left + self.bbox.width, y);
        self.ctx.stroke();
        self.ctx.setLineDash([]);
      }],
    },
  }, columns, holder);
  addEventListener("resize", () => plot.setSize(size()));
}

const holder = document.getElementById("chart");
if (holder) draw(holder);
