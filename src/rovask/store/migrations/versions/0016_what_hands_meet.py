"""What hands meet: seized things, measured sheets, shapes, searches, contacts of metals, what is in the way; whose bunk is where.

Revision 0016, after 0015. May be added beside a web process of 0.15.0.
"""

from alembic import op

from rovask.store.spelled_columns import choices, column, record_table

revision = "0016"
down_revision = "0015"
branch_labels = None
depends_on = None

TYPES = {
    "ofmetal": ("stainless", "steel", "iron", "bronze", "brass", "aluminium"),
    "inseries": (
        "magnesium",
        "zinc",
        "aluminium",
        "steel",
        "stainless_starved",
        "brass",
        "copper",
        "bronze",
        "cupronickel",
        "lead",
        "monel",
        "stainless",
        "titanium",
        "carbon",
    ),
    "holds": ("thread", "press"),
    "reach": ("free", "tight", "blind"),
    "means": ("oil", "shock", "warm", "cold", "flame", "puller", "weld", "drill", "grind", "cut"),
    "seizedstate": ("fast", "broken", "off", "given up"),
    "traceabout": ("water", "fumes", "smell", "flat battery", "warm engine"),
    "tracestate": ("open", "found", "given up"),
    "wetness": ("under water", "splash", "dry"),
    "larger": ("one", "other", "alike"),
    "coversort": ("locker", "sole", "ceiling", "panel", "tank", "engine box"),
}
TABLES = ("seized", "fit", "shape", "trace", "contact", "cover")


def upgrade() -> None:
    """Nothing of it was met yet."""
    choices(TYPES)
    record_table(
        "seized",
        "title:text task:text? place:text? holds:holds metal:ofmetal around:ofmetal size_mm:number years:whole wet:yes_no reach:reach near:words"
        " part:text? now:means? tried:json state:seizedstate note:text at:moment",
        {"task": "task", "place": "place", "part": "part"},
        (),
    )
    record_table(
        "fit",
        "title:text task:text? part:text? old:json room:json new:json ways_in:json play:number settled:words note:text at:moment",
        {"task": "task", "part": "part"},
        (),
    )
    record_table(
        "shape",
        "title:text task:text? corners:json holes:json thick:number of:text mirror_of:text? note:text at:moment",
        {"task": "task", "mirror_of": "shape"},
        (),
    )
    record_table(
        "trace",
        "title:text about:traceabout place:text? since:day? clues:words own:json looks:json task:text? waits:words found:text"
        " why_not:text state:tracestate note:text at:moment",
        {"task": "task", "place": "place"},
        (),
    )
    record_table(
        "contact",
        "title:text place:text? one:inseries other:inseries wet:wetness larger:larger apart:yes_no job:text? note:text at:moment",
        {"place": "place", "job": "job"},
        (),
    )
    record_table(
        "cover",
        "title:text place:text? sort:coversort open_hours:number close_hours:number bunks:whole open_task:text? close_task:text?"
        " note:text at:moment",
        {"place": "place", "open_task": "task", "close_task": "task"},
        (),
    )
    op.add_column("place", column("sleeps:words", "{}"))
    op.add_column("place", column("children:yes_no", "false"))


def downgrade() -> None:
    """Forgotten again."""
    op.drop_column("place", "children")
    op.drop_column("place", "sleeps")
    for table in reversed(TABLES):
        op.drop_table(table)
    for name in TYPES:
        op.execute(f"DROP TYPE {name}")
