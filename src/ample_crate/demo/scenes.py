"""Moving pictures drawn by arithmetic: a lantern in fog, rain, grass in flickering light.

Each scene gives the picture at a moment in time, so that fields and frames are real samples of
motion.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
from PIL import Image, ImageDraw, ImageFilter, ImageFont

Picture = npt.NDArray[np.uint8]
WIDTH, HEIGHT = 1920, 1080


def _cloud(
    rng: np.random.Generator, width: int, height: int, cells: int
) -> npt.NDArray[np.float32]:
    """Make smooth noise in 0..1 that joins at its left and right edges."""
    total = np.zeros((height, width), np.float32)
    weight, share = 0.0, 1.0
    while cells < width // 4:
        grid = rng.random((max(2, cells * height // width), cells)).astype(np.float32)
        grid = np.concatenate([grid, grid[:, :1]], axis=1)
        layer = Image.fromarray(grid).resize((width, height), Image.Resampling.BICUBIC)
        total += share * np.asarray(layer)
        weight += share
        share *= 0.55
        cells *= 2
    made: npt.NDArray[np.float32] = np.clip(total / weight, 0, 1)
    return made


def scaled(picture: npt.NDArray[np.uint8], gain: float) -> npt.NDArray[np.uint8]:
    """Give a picture in so much light, from none to all."""
    part = int(gain * 256)
    if part == 256:
        return picture
    lit = np.multiply(picture, part, dtype=np.uint16)
    lit >>= 8
    return lit.astype(np.uint8)


class Stage:
    """All textures of the programme, made once."""

    def __init__(self, seed: int = 7) -> None:
        rng = np.random.default_rng(seed)
        fog = _cloud(rng, WIDTH * 2, HEIGHT, 6)
        tint = np.array([0.75, 0.95, 1.0], np.float32)
        self.fog: Picture = (18 + 92 * fog[..., None] * tint).astype(np.uint8)
        grass = _cloud(rng, WIDTH * 2, HEIGHT, 220)
        blades = np.clip(grass * 1.9 - 0.45, 0, 1)
        fade = np.linspace(0.35, 1.0, HEIGHT, dtype=np.float32)[:, None]
        self.grass: Picture = (
            np.stack(
                [40 + 70 * blades * fade, 58 + 130 * blades * fade, 30 + 48 * blades * fade],
                axis=-1,
            )
        ).astype(np.uint8)
        self.rain = self._rain(rng)
        self.glow = self._glow(420)
        self.puppet, self.puppet_mask = self._puppet()
        self.title = self._title("LICHEN HOURS")
        self.flicker = rng.uniform(0.72, 1.0, 4096)

    @staticmethod
    def _rain(rng: np.random.Generator) -> Picture:
        sheet = np.zeros((HEIGHT * 2, WIDTH, 3), np.uint8)
        for _ in range(2600):
            x, y, length = rng.integers(0, WIDTH), rng.integers(0, HEIGHT * 2), rng.integers(14, 60)
            sheet[y : y + length, x] = rng.integers(60, 150)
        return sheet

    @staticmethod
    def _glow(radius: int) -> npt.NDArray[np.uint8]:
        y, x = np.mgrid[-radius:radius, -radius:radius].astype(np.float32) / radius
        power = np.clip(1 - np.hypot(x, y), 0, 1) ** 2.2
        made: npt.NDArray[np.uint8] = (
            power[..., None] * np.array([190, 128, 48], np.float32)
        ).astype(np.uint8)
        return made

    @staticmethod
    def _puppet() -> tuple[Picture, npt.NDArray[np.bool_]]:
        image = Image.new("RGBA", (260, 460), (0, 0, 0, 0))
        draw = ImageDraw.Draw(image)
        draw.ellipse((80, 10, 180, 120), fill=(122, 92, 66, 255))
        draw.polygon([(130, 100), (30, 430), (230, 430)], fill=(66, 78, 64, 255))
        draw.ellipse((105, 48, 120, 66), fill=(20, 20, 20, 255))
        draw.ellipse((142, 48, 157, 66), fill=(20, 20, 20, 255))
        for n in range(9):
            draw.line(
                (60 + n * 18, 200 + 14 * (n % 3), 70 + n * 16, 424),
                fill=(96, 112, 88, 255),
                width=4,
            )
        image = image.filter(ImageFilter.SMOOTH)
        data = np.asarray(image)
        return data[..., :3].copy(), data[..., 3] > 127

    @staticmethod
    def _title(text: str) -> npt.NDArray[np.uint8]:
        image = Image.new("L", (1400, 220), 0)
        font = ImageFont.load_default(150)
        ImageDraw.Draw(image).text((700, 110), text, fill=235, font=font, anchor="mm")
        return np.asarray(image)

    def _add(
        self, frame: Picture, patch: npt.NDArray[np.uint8], x: int, y: int, gain: float = 1.0
    ) -> None:
        top, left = max(0, y), max(0, x)
        bottom, right = (
            min(frame.shape[0], y + patch.shape[0]),
            min(frame.shape[1], x + patch.shape[1]),
        )
        if top >= bottom or left >= right:
            return
        part = scaled(patch[top - y : bottom - y, left - x : right - x], gain)
        if part.ndim == 2:
            part = part[..., None]
        here = frame[top:bottom, left:right]
        # What would pass white stops there.
        here += np.minimum(part, 255 - here)

    def _figure(self, frame: Picture, time: float, ground: int) -> None:
        x = int(260 + 120 * time + 14 * np.sin(time * 5)) % (WIDTH - 280)
        y = ground - 440 + int(10 * np.sin(time * 7))
        here = frame[y : y + 460, x : x + 260]
        high = here.shape[0]
        np.copyto(here, self.puppet[:high], where=self.puppet_mask[:high, :, None])
        swing = int(60 * np.sin(time * 2.4))
        self._add(frame, self.glow[::2, ::2], x + 150 + swing - 40, y + 120, 1.0)

    def lantern(self, time: float) -> Picture:
        """Give the quiet scene: a lantern carried through fog."""
        shift = int(time * 55) % WIDTH
        frame = self.fog[:, shift : shift + WIDTH].copy()
        self._add(
            frame,
            self.glow,
            int(900 + 520 * np.sin(time * 0.9)) - 420,
            330 - int(40 * np.cos(time * 1.3)),
            0.9,
        )
        self._figure(frame, time, 1000)
        return frame

    def downpour(self, time: float) -> Picture:
        """Give a hard scene: rain over fog, with a flickering lantern."""
        shift = int(time * 90) % WIDTH
        frame = self.fog[:, shift : shift + WIDTH].copy()
        self._add(frame, self.glow, 700, 250, float(self.flicker[int(time * 50) % 4096]))
        fall = HEIGHT - int(time * 1900) % HEIGHT
        sheet = self.rain[fall : fall + HEIGHT]
        np.maximum(frame, sheet, out=frame)
        self._figure(frame, time, 1020)
        return frame

    def meadow(self, time: float) -> Picture:
        """Give a hard scene: grass sliding past in flickering light."""
        shift = int(time * 310) % WIDTH
        frame = self.grass[:, shift : shift + WIDTH].copy()
        gain = int(256 * float(self.flicker[int(time * 12) % 4096]))
        frame = scaled(frame, gain / 256)
        self._figure(frame, time * 1.6, 1040)
        return frame

    def heading(self, time: float) -> Picture:
        """Give the title over fog, rising out of black."""
        frame = self.lantern(time)
        self._add(frame, self.title, 260, 420, min(1.0, time / 1.5))
        if time < 1.0:
            frame = scaled(frame, time)
        return frame

    def at(self, time: float, cut: tuple[tuple[str, float], ...]) -> Picture:
        """Give the picture of a cut (scene names and lengths in seconds) at a time."""
        for name, length in cut:
            if time < length:
                return getattr(self, name)(time)  # type: ignore[no-any-return]
            time -= length
        return getattr(self, cut[-1][0])(time)  # type: ignore[no-any-return]


def sound(seconds: float, channels: int, seed: int = 3) -> npt.NDArray[np.float32]:
    """Make wind, drops and a slow chime (channels x samples at 48 kHz), near -23 LUFS; channels
    differ.
    """
    rng, count = np.random.default_rng(seed), int(seconds * 48000)
    time = np.arange(count) / 48000
    made = np.zeros((channels, count), np.float32)
    for channel in range(channels):
        spectrum = np.fft.rfft(rng.standard_normal(count))
        pitch = np.fft.rfftfreq(count, 1 / 48000)
        spectrum *= 1 / np.maximum(1, (pitch / 180) ** 1.1) * (pitch > 30)
        wind = np.fft.irfft(spectrum, count)
        wind *= 0.055 / max(1e-9, float(np.std(wind)))
        chime = np.zeros(count)
        for at in np.arange(0.5 + 0.37 * channel, seconds, 2.0):
            later = np.clip(time - at, 0, None)
            chime += (
                (time >= at)
                * np.exp(-2.2 * later)
                * np.sin(2 * np.pi * (392 + 98 * channel) * later)
            )
        made[channel] = (wind * (1 + 0.3 * np.sin(2 * np.pi * time / 7)) + 0.07 * chime) * (
            0.4 if channel == 3 else 1
        )
    return np.clip(made, -0.7, 0.7)
