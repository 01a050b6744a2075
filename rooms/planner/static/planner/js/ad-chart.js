// Margin of the ad pieces against the share cut the merchandised way: a line, the goal, where they meet.
function draw(holder) {
  const figures = JSON.parse(document.getElementById("ad-figures").textContent);
  const colour = (name) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();
  const size = () => ({ width: Math.min(holder.clientWidth, 980), height: 280 });
  const axis = { stroke: colour("--ink-2"), grid: { stroke: colour("--rule"), width: 1 }, font: "15px Atkinson Hyperlegible Next" };
  const shown = (value) => (value === null || value === undefined ? "–" : `${value.toFixed(1)} %`);
  const line = (label, name, width, dash) => ({ label, stroke: colour(name), width, dash, value: (self, value) => shown(value), points: { show: false } });
  const plot = new uPlot({
    ...size(),
    scales: { x: { time: false } },
    axes: [{ ...axis, values: (self, ticks) => ticks.map((tick) => `${tick} %`) }, { ...axis, size: 64, values: (self, ticks) => ticks.map((tick) => `${tick} %`) }],
    series: [
      { label: "merchandised", value: (self, value) => shown(value) },
      line("margin of the pieces", "--action", 3),
      line("goal", "--caution", 2, [8, 5]),
    ],
    hooks: {
      draw: [(self) => {
        if (figures.at === null) return;
        const x = self.valToPos(figures.at, "x", true);
        const y = self.valToPos(figures.makes, "y", true);
        self.ctx.fillStyle = colour("--ink");
        self.ctx.beginPath();
        self.ctx.arc(x, y, 6 * devicePixelRatio, 0, 7);
        self.ctx.fill();
      }],
    },
  }, [figures.share, figures.margin, figures.share.map(() => figures.goal)], holder);
  addEventListener("resize", () => plot.setSize(size()));
}

const holder = document.getElementById("ad-chart");
if (holder) draw(holder);
