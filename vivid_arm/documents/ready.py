"""Read once by the server that papers are forked from: fonts and styles are there for each."""

from vivid_arm.documents.fetching import FONTS, font
from vivid_arm.documents.paper import made_pdf

for path in FONTS.glob("*.woff2"):
    font(path)
made_pdf("<p>Ready</p>")
