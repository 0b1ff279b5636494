import { useState } from "react";
import type { Schemas } from "../../api/client";
import { TextField } from "../../ui/Field";
import { Table } from "../../ui/Table";
import { mixOf, readGain, withGain, written } from "./mix";

type Track = Schemas["SoundTrackOut"];

/** How much of each channel taken goes into each one made, by loudspeaker, in dB. */
export function Matrix({ track, set }: { track: Track; set?: (mix: string) => void }) {
  return (
    <Table
      label="Matrix of channels"
      columns={["made \\ taken", ...track.taken]}
      className="figure w-auto"
    >
      <tbody>
        {track.made.map((name, row) => (
          <tr key={name}>
            <th scope="row" className="text-left">
              {name}
            </th>
            {track.taken.map((one, column) => {
              const gain = track.gains[row]?.[column] ?? null;
              return (
                <td key={one} className="!px-1">
                  {set ? (
                    <Gain
                      key={written(gain)}
                      label={`${one} in ${name}, dB`}
                      gain={gain}
                      take={(next) =>
                        set(
                          mixOf(track.taken, track.made, withGain(track.gains, row, column, next)),
                        )
                      }
                    />
                  ) : (
                    written(gain) || <span className="muted">-</span>
                  )}
                </td>
              );
            })}
          </tr>
        ))}
      </tbody>
    </Table>
  );
}

function Gain({
  label,
  gain,
  take,
}: {
  label: string;
  gain: number | null;
  take: (gain: number | null) => void;
}) {
  const held = written(gain);
  const [text, setText] = useState(held);
  const read = readGain(text);
  const done = () => {
    if (text.trim() !== held && read !== undefined) take(read);
  };
  return (
    <TextField
      className="w-14 text-right"
      inputMode="decimal"
      aria-label={label}
      aria-invalid={read === undefined}
      placeholder="-"
      value={text}
      onChange={(e) => setText(e.target.value)}
      onBlur={done}
      onKeyDown={(e) => {
        if (e.key === "Enter") done();
        if (e.key === "Escape") setText(held);
      }}
    />
  );
}
