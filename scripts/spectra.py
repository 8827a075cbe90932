"""Makes ``cold_arc/core/data/spectra.toml``: the CIE 1931 observer and the CIE's white LED spectra,
every 10 nm, as the colour-science package has them.

`python scripts/spectra.py` writes the file; nothing else reads the package.
"""

from __future__ import annotations

from pathlib import Path

import colour

FILE = Path(__file__).parent.parent / "cold_arc" / "core" / "data" / "spectra.toml"
SHAPE = colour.SpectralShape(380, 780, 10)
LEDS = ("LED-B1", "LED-B2", "LED-B3", "LED-B4", "LED-B5")
HEAD = """\
# Every 10 nm from 380 to 780 nm, made by scripts/spectra.py from the colour-science package: the
# CIE 1931 standard observer, and the CIE's white LEDs (blue chip, phosphor; CIE 15:2018) by their
# colour temperature, K.
"""


def row(values: object) -> str:
    """A list of the file."""
    return f"[{', '.join(f'{value:.5g}' for value in values)}]"  # type: ignore[attr-defined]


def main() -> None:
    observer = colour.MSDS_CMFS["CIE 1931 2 Degree Standard Observer"].copy().align(SHAPE)
    lines = [HEAD, f"nm = {row(observer.wavelengths)}", "", "[observer]"]
    lines += [f"{name} = {row(observer.values[:, place])}" for place, name in enumerate("xyz")]
    lines += ["", "[led]"]
    for name in LEDS:
        spectrum = colour.SDS_ILLUMINANTS[name].copy().align(SHAPE)
        kelvin = colour.temperature.xy_to_CCT(
            colour.XYZ_to_xy(colour.sd_to_XYZ(colour.SDS_ILLUMINANTS[name])),
            method="Hernandez 1999",
        )
        lines.append(f'"{kelvin:.0f}" = {row(spectrum.values)}')
    FILE.write_text("\n".join(lines) + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
