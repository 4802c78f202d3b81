"""The feed of a show as RSS 2.0 with the podcast namespace."""

from __future__ import annotations

from datetime import UTC, datetime
from email.utils import format_datetime

from lxml import etree

from jaskel.core.feed import CHAPTERS, Feed, FeedEpisode

ATOM = "http://www.w3.org/2005/Atom"
PODCAST = "https://podcastindex.org/namespace/1.0"
"""The podcast namespace: https://github.com/Podcastindex-org/podcast-namespace."""


def feed_xml(feed: Feed) -> bytes:
    """The feed as a file, its newest episode first."""
    root = etree.Element("rss", {"version": "2.0"}, nsmap={"atom": ATOM, "podcast": PODCAST})
    channel = etree.SubElement(root, "channel")
    _put(channel, "title", feed.title)
    _put(channel, "link", feed.site or feed.address)
    _put(channel, "description", feed.about or feed.title)
    _put(channel, "language", feed.language)
    if feed.author:
        _put(channel, f"{{{PODCAST}}}person", feed.author[:128], role="author", group="writing")
    _put(channel, "generator", "Jaskel")
    if feed.episodes:
        _put(channel, "lastBuildDate", _date(max(each.published for each in feed.episodes)))
    _put(channel, f"{{{ATOM}}}link", "", href=feed.address, rel="self", type="application/rss+xml")
    _put(channel, f"{{{PODCAST}}}guid", str(feed.guid))
    _put(channel, f"{{{PODCAST}}}medium", "podcast" if not _films(feed) else "video")
    for episode in sorted(feed.episodes, key=lambda each: each.published, reverse=True):
        _item(etree.SubElement(channel, "item"), episode, feed.language)
    return bytes(etree.tostring(root, xml_declaration=True, encoding="utf-8", pretty_print=True))


def _films(feed: Feed) -> bool:
    return bool(feed.episodes) and all(each.media.type.startswith("video/") for each in feed.episodes)


def _item(item: etree._Element, episode: FeedEpisode, language: str) -> None:
    _put(item, "title", episode.title)
    _put(item, "guid", episode.id, isPermaLink="false")
    _put(item, "pubDate", _date(episode.published))
    _put(item, "description", episode.summary or episode.title)
    _put(item, "enclosure", "", url=episode.media.address, length=str(episode.media.size), type=episode.media.type)
    if episode.season:
        _put(item, f"{{{PODCAST}}}season", str(episode.season))
    if episode.number:
        _put(item, f"{{{PODCAST}}}episode", str(episode.number))
    for each in episode.transcripts:
        rel = {"rel": "captions"} if each.timed else {}
        _put(item, f"{{{PODCAST}}}transcript", "", url=each.address, type=each.type, language=language, **rel)
    if episode.chapters:
        _put(item, f"{{{PODCAST}}}chapters", "", url=episode.chapters.address, type=CHAPTERS)
    for person in episode.persons:
        _put(item, f"{{{PODCAST}}}person", person.name, role=person.role, group="cast")


def _put(parent: etree._Element, name: str, text: str, **values: str) -> None:
    element = etree.SubElement(parent, name, values)
    # Control characters cannot stand in XML at all.
    element.text = "".join(letter for letter in text if letter in "\t\n" or ord(letter) >= 32) or None


def _date(at: datetime) -> str:
    return format_datetime(at.replace(tzinfo=UTC))
