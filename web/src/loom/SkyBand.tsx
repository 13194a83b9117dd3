import { colour, Label, type LayerProps, layerOf, trace } from "../draw/layer";

/** The wall clock: its hours, the light of the sky, sun and moon, and when they come and go. */
export const SkyBand = layerOf(
  function SkyBand({ lanes, scale, top, height, left, right }: LayerProps) {
    const { sky } = lanes;
    const altitude = (value: number) => top + height - 6 - (Math.max(value, -20) / 90) * (height - 10);
    const shown = lanes.marks.filter((mark) => scale(mark.at_s) > left + 2 && scale(mark.at_s) < right - 4);
    return (
      <g>
        {apart(lanes.wall_ticks, scale, left + 8, right - 16).map((tick) => (
          <g key={tick.at}>
            <Label x={scale(tick.at)} y={top - 11} textAnchor="middle" figure>
              {tick.label}
            </Label>
            <line x1={scale(tick.at)} x2={scale(tick.at)} y1={top - 6} y2={top} stroke={colour("inkSoft")} />
          </g>
        ))}
        <defs>
          <linearGradient
            id="sky-band"
            gradientUnits="userSpaceOnUse"
            x1={scale(sky.at_s[0] ?? 0)}
            x2={scale(sky.at_s.at(-1) ?? 1)}
          >
            {sky.colour.map((shade, i) => (
              <stop
                key={sky.at_s[i]}
                offset={
                  ((sky.at_s[i] ?? 0) - (sky.at_s[0] ?? 0)) / ((sky.at_s.at(-1) ?? 1) - (sky.at_s[0] ?? 0))
                }
                stopColor={shade}
              />
            ))}
          </linearGradient>
        </defs>
        <Label x={left - 10} y={top + 26} textAnchor="end" size={13} weight={700} tone="ink">
          Sky
        </Label>
        <g clipPath="url(#loom-lanes)">
          <rect
            className="sky"
            x={left}
            y={top}
            width={right - left}
            height={height}
            rx={3}
            fill="url(#sky-band)"
          />
          <path
            d={trace(sky.at_s, sky.moon_altitude_deg, scale, altitude)}
            fill="none"
            className="sky"
            stroke="#FFF8E7"
            strokeWidth={1.3}
            strokeDasharray="1 5"
            strokeLinecap="round"
            clipPath="url(#sky-only)"
          />
          <path
            d={trace(sky.at_s, sky.sun_altitude_deg, scale, altitude)}
            fill="none"
            className="sky"
            stroke="#B25A12"
            strokeWidth={1.5}
            clipPath="url(#sky-only)"
          />
          <clipPath id="sky-only">
            <rect x={left} y={top} width={right - left} height={height - 4} />
          </clipPath>
        </g>
        {lanes.waits_until_s != null && (
          <Wait
            from={scale(lanes.start_s)}
            to={scale(lanes.waits_until_s)}
            top={top}
            left={left}
            right={right}
          />
        )}
        <Marks shown={shown} scale={scale} y={top + height} right={right} />
      </g>
    );
  },
  ["sky", "marks", "wall_ticks", "start_s", "waits_until_s"],
  [],
);

/** The hours in which it waits for what begins it: a dotted bar along the top of the sky. */
function Wait(props: { from: number; to: number; top: number; left: number; right: number }) {
  const from = Math.max(props.from, props.left);
  const to = Math.min(props.to, props.right);
  if (to <= from) return null;
  return (
    <g data-testid="wait">
      <title>It waits in these hours</title>
      <line
        x1={from}
        x2={to}
        y1={props.top + 5}
        y2={props.top + 5}
        stroke={colour("accent")}
        strokeWidth={5}
        strokeDasharray="2 6"
      />
      <line x1={to} x2={to} y1={props.top} y2={props.top + 14} stroke={colour("accent")} strokeWidth={2} />
      {to - from > 60 && (
        <Label x={from + 6} y={props.top + 22} size={12} tone="ink">
          waits
        </Label>
      )}
    </g>
  );
}

/** The ticks between two edges whose labels do not touch. */
function apart(
  ticks: LayerProps["lanes"]["wall_ticks"],
  scale: LayerProps["scale"],
  from: number,
  to: number,
) {
  let free = from;
  return ticks.filter((tick) => {
    const x = scale(tick.at);
    if (x < free || x > to - tick.label.length * 3) return false;
    free = x + 14 + tick.label.length * 8;
    return true;
  });
}

const SHORT: Record<string, string> = {
  "astronomical dusk": "dark",
  "astronomical dawn": "first light",
  "sun behind the ridge": "ridge",
  "sun over the ridge": "over ridge",
};

/** Names of what the sky does; one that would lie on its neighbour is left to the tooltip. */
function Marks(props: {
  shown: LayerProps["lanes"]["marks"];
  scale: LayerProps["scale"];
  y: number;
  right: number;
}) {
  const { shown, scale, y, right } = props;
  let free = 0;
  return shown.map((mark) => {
    const x = scale(mark.at_s);
    const short = SHORT[mark.name] ?? mark.name;
    const width = 13 + short.length * 5.9;
    const room = x >= free && x + width < right;
    if (room) free = x + width;
    return (
      <g key={`${mark.name}${mark.at_s}`} className="sky">
        <title>{`${mark.name} ${mark.clock}`}</title>
        <line x1={x} x2={x} y1={y - 12} y2={y} stroke="#FFF8E7" strokeWidth={1.4} />
        {room && (
          <Label
            x={x + 4}
            y={y - 4}
            size={11}
            style={{ fill: "#FFF8E7" }}
            stroke="#22283A"
            strokeWidth={2.4}
            paintOrder="stroke"
          >
            {short}
          </Label>
        )}
      </g>
    );
  });
}
