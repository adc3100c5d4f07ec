// A view of the vehicle on the page: from its pixels to the vehicle's millimetres and back.
const AXES = {
  side: [
    [0, 1],
    [2, 1],
  ],
  plan: [
    [0, 1],
    [1, 1],
  ],
  rear: [
    [1, -1],
    [2, 1],
  ],
};

export class View {
  constructor(svg) {
    this.svg = svg;
    this.name = svg.dataset.view;
    this.axes = AXES[this.name];
    [this.scale, this.left, this.top] = ["scale", "left", "top"].map((k) => Number(svg.dataset[k]));
  }
  at(p) {
    const [[i, si], [j, sj]] = this.axes;
    return [(si * p[i] - this.left) * this.scale, (this.top - sj * p[j]) * this.scale];
  }
  path(points) {
    return `M${points
      .map((p) =>
        this.at(p)
          .map((v) => v.toFixed(1))
          .join(" "),
      )
      .join(" L")}`;
  }
  // Where a pointer is, on the page of the drawing and along the view's axes [mm].
  mm(event) {
    const box = this.svg.getBoundingClientRect();
    const k = this.svg.viewBox.baseVal.width / box.width;
    return this.under([(event.clientX - box.left) * k, (event.clientY - box.top) * k]);
  }
  under([x, y]) {
    return [x / this.scale + this.left, this.top - y / this.scale];
  }
  // A place with the two coordinates that this view shows set to others [mm].
  moved(p, [u, w]) {
    const [[i, si], [j, sj]] = this.axes;
    const out = [...p];
    out[i] = si * u;
    out[j] = sj * w;
    return out;
  }
  shifted(p, du, dw) {
    const [[i, si], [j, sj]] = this.axes;
    const out = [...p];
    out[i] += si * du;
    out[j] += sj * dw;
    return out;
  }
}

export const views = () =>
  [...document.querySelectorAll("svg.vehicle[data-view]")].map((svg) => new View(svg));
