"""What is said in the demo world: two programmes of the show Ropewalk, with their faults written in.

Everything here is made up. A turn is what one voice says until the other begins; ``{um}`` is a spoken filler, ``{rest 2.4}``
a silence of that many seconds, ``{cough orla}`` a cough of that voice under the words that follow, ``{laugh orla}`` its
laughter and ``{door}`` a door in the room, each with nothing said meanwhile. ``fault`` names what is wrong with a turn, for the
file of truths; ``take`` groups attempts at the same sentence.
"""

from __future__ import annotations

from dataclasses import dataclass

SHOW = "Ropewalk"
SHOW_ABOUT = "Stories from the community boatyard in Tarn Hythe."
VOICES = {"orla": "Orla Venn", "teo": "Teo Marsh", "ines": "Ines Calder"}

SPELLINGS = {
    "Ropewalk": ("rope walk",),
    "Tarn Hythe": ("Tarnife",),
    "Teo Marsh": ("T.O. Marsh",),
    "Teo": ("T.O.",),
    "Orla Venn": (),
}
"""The house spellings of the show, each with what it is misheard as."""


@dataclass(frozen=True)
class Turn:
    """``gap`` is the silence before it in seconds; below zero it begins while the one before still speaks (crosstalk)."""

    voice: str
    text: str
    gap: float = 0.35
    fault: str = ""
    take: str = ""


INTERVIEW_TITLE = "The dry hull"
MIXED_TITLE = "The dry hull, mixed"
INTERVIEW = (
    Turn("orla", "Is it on? {rest 0.9} I think the red light means it is on.", 0.8, "chatter"),
    Turn("teo", "Mine is red as well. {rest 0.6} Do you want me closer to it?", 0.4, "chatter"),
    Turn("orla", "No, stay where you are. {um} Did you bring the kettle in? {rest 1.6} Right, from the top.", 0.5, "chatter"),
    Turn(
        "orla",
        "Welcome to Ropewalk, stories from the community boatyard in Tarn Hythe. I am Orla Venn. "
        "With me is Teo Marsh, the shipwright who has kept our harbour floating for thirty years.",
        2.4,
    ),
    Turn("teo", "Thirty two, but who is counting.", 0.3),
    Turn(
        "orla",
        "Teo, you have said that a boat that stays out of the water all winter is {um} a boat that is dying. {rest 1.4} What did you mean by that?",
    ),
    Turn(
        "teo",
        "So {uh} people think a dry shed is a kindness. {rest 0.5} They bring the boat up in the autumn, they close the door, and they are proud of it.",
        0.7,
    ),
    Turn("teo", "The first thing you learn,", 0.6, "retake", "first thing"),
    Turn("teo", "the first thing you learn about a,", 0.5, "retake", "first thing"),
    Turn("teo", "The first thing you learn about an old hull is that a dry boat is a leaking boat.", 0.8, "", "first thing"),
    Turn(
        "teo",
        "The planks shrink, the caulking lets go, and {um} by the time she goes back in {rest 0.5} you can see daylight through her.",
        0.5,
    ),
    Turn("orla", "And the owners never believe you. {rest 2.1} Never?", 0.4),
    Turn(
        "teo",
        "Never. They say to me, I paid for a dry shed, {rest 0.6} and I say you paid to do the whole job twice. "
        "So we flood her on the slip first. Slowly, {rest 0.5} over two days, and {uh} you watch the seams close on their own.",
    ),
    Turn("orla", "That must be a strange thing to watch.", -0.5, "crosstalk"),
    Turn(
        "teo",
        "I walk round and round her every time, just to see it. {rest 3.2} It is the only part of the work that does itself.",
        0.5,
    ),
    Turn("orla", "Tell me about the first boat you brought back. {um} The one they were going to burn.", 0.6),
    Turn(
        "teo",
        "Oh, the Heron. {rest 0.8} She was a fishing smack, forty feet, and she had lain in the mud since before I was born. "
        "The council wanted the berth. {uh} There was a man with a can of fuel standing on the quay.",
        0.8,
    ),
    Turn("orla", "A man with a can of fuel.", 0.3),
    Turn(
        "teo",
        "I asked him for one week. {rest 0.5} He gave me until Friday. So four of us dug her out with shovels, "
        "{cough orla} and on the Thursday night the tide came up and she lifted. {rest 1.1} She lifted like a sleeper waking up.",
        0.4,
    ),
    Turn("orla", "And nobody had thought to check whether she would float?", 0.4),
    Turn("teo", "Nobody had thought at all. {um} We were twenty years old.", 0.3),
    Turn("orla", "Note for the edit, the gulls were loud there, so please use the second answer.", 1.5, "note to the editor"),
    Turn("orla", "How long did it take before she sailed again?", 2.2),
    Turn(
        "teo",
        "Six years. {rest 0.7} People laugh when I say it. But you replace a plank, and behind it there is a rib, "
        "and behind the rib there is {uh} there is a story about who cut the corner in the first place.",
        0.5,
    ),
    Turn("orla", "So you are reading the boat.", 0.3),
    Turn(
        "teo",
        "You are reading everybody who ever touched her. {rest 0.6} I found a pencil mark on the inside of the garboard, "
        "just a name and a year. {um} The plank was ninety years old and the pencil was as sharp as this morning.",
        0.3,
    ),
    Turn("orla", "What did you do with it?", 0.4),
    Turn("teo", "I put the plank back. {rest 4.3} Some things you do not replace.", 0.9),
    Turn("orla", "Who taught you all this?", 0.8),
    Turn(
        "teo",
        "My aunt. {door} She built dinghies in a barn with no light but the door. {um} She could tell you the wood with her eyes shut, "
        "by the smell of the shavings. Larch is sweet, oak is sour, and elm smells like a wet dog.",
        0.5,
    ),
    Turn("orla", "{laugh orla} A wet dog. {rest 0.8} And did she ever let you use the good chisel?", 0.3),
    Turn(
        "teo",
        "Not for four years. {rest 0.7} For four years I sharpened it, and {uh} I gave it back to her. One morning she was ill, and she sent me out "
        "alone with the good chisel, and I stood there in that barn, {rest 1.3} and I could not make the first cut.",
        0.4,
    ),
    Turn("orla", "What were you afraid of?", 0.6),
    Turn(
        "teo",
        "Of the wood. You cannot put it back. {rest 0.9} People who work with words, or with pictures, {um} they can change their mind. "
        "A chisel does not change its mind. So you learn to look for a long time, and then you cut once, and you do not look back.",
        0.5,
    ),
    Turn("orla", "I think that is the best advice anyone has given me this year.", 0.4),
    Turn("teo", "It is my aunt's advice. {rest 0.6} I only carried it across the yard.", 0.3),
    Turn(
        "orla",
        "Let us talk about the yard itself. {uh} It belongs to the people who use it, and that is not how most yards work.",
        0.8,
    ),
    Turn(
        "teo",
        "No. Most yards belong to whoever had the money for the crane. {rest 0.5} Here it is hours. You give the yard a day, "
        "the yard gives you a day. We have a teacher, two nurses, a baker, {um} and a man who will not tell us what he does.",
    ),
    Turn("orla", "And what does he do in the yard?", 0.25),
    Turn("teo", "He sweeps. {laugh teo} He sweeps better than anyone I have ever met.", 0.35),
    Turn("orla", "I have seen that floor, you could eat from it.", -0.6, "crosstalk"),
    Turn("teo", "We do. Every Friday. {rest 0.8} Long table, soup, and whatever the baker brings.", 0.4),
    Turn(
        "orla",
        "If somebody is listening and they have an old boat under a sheet in the garden, {um} what should they do tomorrow morning?",
        1.0,
    ),
    Turn(
        "teo",
        "Take the sheet off. {rest 0.9} Walk around her twice. Put your hand flat on the planks and {uh} listen with it. "
        "And then go and find somebody older than you and ask them what they see.",
        0.6,
    ),
    Turn("orla", "And if they do not know anybody older?", 0.3),
    Turn("teo", "Then they should come to us. {rest 0.5} Somebody here is always older.", 0.4),
    Turn("orla", "Before I let you go, {rest 0.6} what is on the slip right now?", 0.7),
    Turn(
        "teo",
        "A little ferry from across the water. {um} She carried the post for sixty years, and then she carried hens. "
        "{rest 0.6} We are on the last strake. If the weather holds she goes in on the spring tide.",
        0.5,
    ),
    Turn("orla", "Dry or leaking?", 0.3),
    Turn("teo", "Leaking, I hope. {rest 1.2} Leaking like a basket, for two days. And then never again.", 0.5),
    Turn(
        "orla",
        "Teo Marsh, thank you. {rest 0.5} This was Ropewalk, from the boatyard in Tarn Hythe. Come and find us, and bring soup.",
        0.5,
    ),
    Turn("orla", "And that is it. {rest 1.0} Was that all right?", 2.6, "chatter"),
    Turn("teo", "I said hens, did I? {rest 0.7} I should not have said hens.", 0.4, "chatter"),
)

TO_CAMERA_TITLE = "Mending a torn sail"
TO_CAMERA = (
    Turn("ines", "Okay. {rest 1.1} Camera is running.", 1.2, "chatter"),
    Turn("ines", "Hello, I am Ines,", 1.0, "retake", "hello"),
    Turn("ines", "Hello, I am Ines Calder, and in this, sorry, again.", 0.8, "retake", "hello"),
    Turn("ines", "Hello, I am Ines Calder, and today we are going to mend a torn sail by hand.", 1.2, "", "hello"),
    Turn(
        "ines",
        "You need very little. {rest 0.4} A needle, a palm, {um} some waxed thread, and a piece of cloth of the same weight.",
        0.6,
    ),
    Turn("ines", "The cloth matters more than, {rest 0.6} no, wait.", 0.7, "retake", "cloth"),
    Turn(
        "ines",
        "The cloth matters more than the thread. {rest 0.5} Cloth that is too heavy will tear the sail beside the patch.",
        1.6,
        "",
        "cloth",
    ),
    Turn("ines", "First, {uh} wash out the salt. {rest 0.6} Salt holds water, and water holds rot.", 0.6),
    Turn(
        "ines",
        "Then lay the sail on a flat floor and bring the edges of the tear, the edges of the tear together.",
        0.5,
        "retake",
        "edges",
    ),
    Turn(
        "ines", "Then lay the sail on a flat floor, and bring the edges of the tear together without pulling.", 1.4, "", "edges"
    ),
    Turn("ines", "If you pull, the patch will pucker. {rest 0.5} Slowly, slowly, and then it lies down by itself.", 0.6),
    Turn("ines", "Cut your patch two fingers, {rest 1.5} cut your patch three fingers wide,", 0.9, "retake", "patch"),
    Turn("ines", "Cut your patch two fingers wider than the tear on every side, and fold the edge under.", 1.1, "", "patch"),
    Turn(
        "ines",
        "Now the stitch. {um} We use a flat stitch, about eight to the length of the needle. {rest 2.6} Not six, not twelve. Eight.",
        0.7,
    ),
    Turn("ines", "Push the needle down through the sail only,", 0.7, "retake", "needle"),
    Turn("ines", "Push the needle down through the, oh, {rest 0.8} where is my palm.", 0.9, "retake", "needle"),
    Turn(
        "ines",
        "Push the needle down through the sail only, and come up through the sail and the patch together.",
        2.8,
        "",
        "needle",
    ),
    Turn("ines", "Down through one, up through two. Down through one, up through two. {rest 0.4} You will find a rhythm.", 0.6),
    Turn(
        "ines", "When you reach a corner, {uh} turn the whole sail and not your hand. {rest 0.5} Your hand will thank you.", 0.6
    ),
    Turn(
        "ines",
        "Somebody is knocking. {rest 1.8} Can you wait a moment, please? {rest 2.2} Thank you.",
        0.9,
        "note to the editor",
    ),
    Turn("ines", "At the end we do not tie a knot. {rest 0.4} A knot is a, {um} a knot makes a hole.", 1.2, "retake", "knot"),
    Turn("ines", "At the end we do not tie a knot. A knot makes a hole, and a hole makes the next tear.", 1.3, "", "knot"),
    Turn(
        "ines",
        "Run the thread back under your last five stitches and cut it close. {rest 0.6} That is the whole art of it.",
        0.6,
    ),
    Turn(
        "ines",
        "A good mend is stronger than the sail around it. {rest 0.5} A bad mend is a map of where it will tear next.",
        0.8,
    ),
    Turn("ines", "Thank you for, thank you for watching.", 0.9, "retake", "thanks"),
    Turn("ines", "Thank you for watching. {rest 0.4} Come and see us in the sail loft at Tarn Hythe.", 1.3, "", "thanks"),
    Turn("ines", "Is that it? {rest 0.9} Good. Switch it off.", 1.8, "chatter"),
)
