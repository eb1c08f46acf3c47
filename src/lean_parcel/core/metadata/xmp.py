"""XMP packets (ISO 16684-1): reading properties, leaving some out, and writing them compactly."""

import re
from collections.abc import Iterator

from lxml import etree

_RDF = "http://www.w3.org/1999/02/22-rdf-syntax-ns#"
_X = "adobe:ns:meta/"
_XML_LANG = "{http://www.w3.org/XML/1998/namespace}lang"
NAMESPACES = {
    "dc": "http://purl.org/dc/elements/1.1/",
    "photoshop": "http://ns.adobe.com/photoshop/1.0/",
    "xmp": "http://ns.adobe.com/xap/1.0/",
    "xmpMM": "http://ns.adobe.com/xap/1.0/mm/",
    "xmpRights": "http://ns.adobe.com/xap/1.0/rights/",
    "tiff": "http://ns.adobe.com/tiff/1.0/",
    "exif": "http://ns.adobe.com/exif/1.0/",
    "Iptc4xmpCore": "http://iptc.org/std/Iptc4xmpCore/1.0/xmlns/",
    "Iptc4xmpExt": "http://iptc.org/std/Iptc4xmpExt/2008-02-29/",
    "cc": "http://creativecommons.org/ns#",
    "hdrgm": "http://ns.adobe.com/hdr-gain-map/1.0/",
    "HDRGainMap": "http://ns.apple.com/HDRGainMap/1.0/",
    "GContainer": "http://ns.google.com/photos/1.0/container/",
    "GCamera": "http://ns.google.com/photos/1.0/camera/",
    "GDepth": "http://ns.google.com/photos/1.0/depthmap/",
    "xmpNote": "http://ns.adobe.com/xmp/note/",
}
#: Properties whose values are lists: of names, or of one text in several languages.
_CONTAINERS = {"dc:creator": "Seq", "dc:rights": "Alt", "dc:description": "Alt", "dc:title": "Alt"}
#: All but the characters of XML 1.0 (production 2).
_NOT_XML = re.compile("[^\t\n\r\x20-\ud7ff\ue000-\ufffd\U00010000-\U0010ffff]")
_PACKET = b'<?xpacket begin="\xef\xbb\xbf" id="W5M0MpCehiHzreSzNTczkc9d"?>%s<?xpacket end="r"?>'


class Xmp:
    """One packet, parsed; an empty one where the bytes are no XMP. External entities are never
    loaded."""

    def __init__(self, packet: bytes = b"") -> None:
        parser = etree.XMLParser(
            resolve_entities=False, no_network=True, remove_blank_text=True, remove_pis=True
        )
        try:
            root = etree.fromstring(packet.strip(b"\0 \r\n\t"), parser)
            found = root if root.tag == f"{{{_RDF}}}RDF" else root.find(f"{{{_RDF}}}RDF")
        except (etree.XMLSyntaxError, ValueError):
            found = None
        #: Whether bytes were given that are no XMP.
        self.is_unreadable = bool(packet) and found is None
        self._rdf = etree.Element(f"{{{_RDF}}}RDF", nsmap={"rdf": _RDF}) if found is None else found
        self._added: etree._Element | None = None

    @property
    def is_empty(self) -> bool:
        """Whether no property is left."""
        return not any(True for _ in self._properties())

    def get(self, name: str) -> str:
        """The text of a property like `dc:rights`, lists joined by commas; empty where there is
        none."""
        tag = _tag(name)
        for description in self._descriptions():
            if tag in description.attrib:
                return str(description.attrib[tag]).strip()
            element = description.find(tag)
            if element is not None:
                items = [(item.text or "").strip() for item in element.iter(f"{{{_RDF}}}li")]
                resource = element.get(f"{{{_RDF}}}resource", "")
                return ", ".join(filter(None, items)) or (element.text or resource).strip()
        return ""

    def set(self, name: str, text: str) -> None:
        """Adds a property, without the characters that XML cannot have."""
        text = _NOT_XML.sub("", text)
        if self._added is None:
            self._added = etree.SubElement(self._rdf, f"{{{_RDF}}}Description", nsmap=NAMESPACES)
            self._added.set(f"{{{_RDF}}}about", "")
        description = self._added
        container = _CONTAINERS.get(name)
        if container is None:
            description.set(_tag(name), text)
            return
        values = etree.SubElement(
            etree.SubElement(description, _tag(name)), f"{{{_RDF}}}{container}"
        )
        item = etree.SubElement(values, f"{{{_RDF}}}li")
        item.text = text
        if container == "Alt":
            item.set(_XML_LANG, "x-default")

    def remove(self, *patterns: str) -> int:
        """Leaves out properties by name (`xmpMM:History`) or beginning (`exif:GPS*`), wherever they
        stand, and returns about how many bytes they took."""
        removed_bytes = 0
        for element, tag in list(self._properties()):
            if not any(_matches(tag, pattern) for pattern in patterns):
                continue
            if tag in element.attrib:
                removed_bytes += len(tag) + len(str(element.attrib.pop(tag)))
            else:
                child = element.find(tag)
                removed_bytes += len(etree.tostring(child))
                element.remove(child)
        return removed_bytes

    def packet(self) -> bytes:
        """The packet without padding; no bytes where it has no property."""
        if self.is_empty:
            return b""
        for description in self._descriptions():
            if not len(description) and not _own_attributes(description):
                self._rdf.remove(description)
        etree.cleanup_namespaces(self._rdf)
        meta = etree.Element(f"{{{_X}}}xmpmeta", nsmap={"x": _X})
        meta.append(self._rdf)
        return _PACKET % bytes(etree.tostring(meta, encoding="utf-8"))

    def _descriptions(self) -> list[etree._Element]:
        return list(self._rdf.findall(f"{{{_RDF}}}Description"))

    def _properties(self) -> Iterator[tuple[etree._Element, str]]:
        for description in self._descriptions():
            for tag in _own_attributes(description):
                yield description, tag
            for child in description:
                if isinstance(child.tag, str):
                    yield description, child.tag


def _own_attributes(description: etree._Element) -> list[str]:
    return [str(tag) for tag in description.attrib if not str(tag).startswith(f"{{{_RDF}}}")]


def _tag(name: str) -> str:
    prefix, local = name.split(":")
    return f"{{{NAMESPACES[prefix]}}}{local}"


def _matches(tag: str, pattern: str) -> bool:
    wanted = _tag(pattern.removesuffix("*"))
    return tag.startswith(wanted) if pattern.endswith("*") else tag == wanted
