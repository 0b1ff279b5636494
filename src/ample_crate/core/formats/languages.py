"""Languages of tracks: ISO 639-2, which has two codes for some."""

from __future__ import annotations

# The bibliographic code of a language, and the terminological one by which it is known here.
TWINS = {
    "alb": "sqi",
    "arm": "hye",
    "baq": "eus",
    "bur": "mya",
    "chi": "zho",
    "cze": "ces",
    "dut": "nld",
    "fre": "fra",
    "geo": "kat",
    "ger": "deu",
    "gre": "ell",
    "ice": "isl",
    "mac": "mkd",
    "mao": "mri",
    "may": "msa",
    "per": "fas",
    "rum": "ron",
    "slo": "slk",
    "tib": "bod",
    "wel": "cym",
}
UNKNOWN = "und"
# QuickTime numbers languages (QuickTime File Format, language code values); the codec library
# knows these of them by these codes (tried, one by one).
NUMBERS = (
    "eng fra ger ita dut spa dan por nor heb jpn ara fin gre ice mlt tur chi urd hin tha kor lit "
    "pol hun est lav per rus alb ron ces slk slv yid mac bul ukr bel uzb kaz aze arm geo mol kir "
    "tgk tuk mon pus kur kas snd tib nep san mar ben asm guj ori mal kan tam tel sin khm lao vie "
    "ind tgl may amh tir orm som swa kin run nya mlg epo wel baq cat lat que grn aym tat uig dzo "
    "jav"
)
NUMBERED = frozenset(NUMBERS.split())


def known_by(code: str | None) -> str | None:
    """Give the one code by which a language is known; None where it is not stated."""
    if not code or code == UNKNOWN:
        return None
    return TWINS.get(code, code)


def numbered(code: str) -> str | None:
    """Give the code by which the library writes a language's number; None where it has none."""
    twins = [code, *(other for other, known in TWINS.items() if known == code)]
    return next((twin for twin in twins if twin in NUMBERED), None)
