"""What the studio can draw, and how freely it poses each subject."""

from collections.abc import Callable
from dataclasses import dataclass

from zeichen.standins.studio import (
    animals,
    fruit,
    garden,
    household,
    insects,
    plants,
    tools,
    vegetables,
    weather,
    wildlife,
)
from zeichen.standins.studio.hand import Hand
from zeichen.standins.studio.pen import Part


@dataclass(frozen=True, slots=True)
class Subject:
    """One subject: who draws it, how far it may lean to either side, and where it looks as it is drawn."""

    draw: Callable[[Hand], list[Part]]
    lean_deg: float = 3.0
    faces: str = "left"


SUBJECTS: dict[str, Subject] = {
    "snail": Subject(animals.snail, faces="right"),
    "beetroot": Subject(garden.beetroot, 5),
    "watering can": Subject(garden.watering_can),
    "teapot": Subject(garden.teapot),
    "hedgehog": Subject(animals.hedgehog, faces="right"),
    "bean pod": Subject(garden.bean_pod, 10),
    "wheelbarrow": Subject(garden.wheelbarrow),
    "dragonfly": Subject(animals.dragonfly, 28),
    "butterfly": Subject(insects.butterfly, 16),
    "ladybird": Subject(insects.ladybird, 30),
    "frog": Subject(wildlife.frog, 2),
    "robin": Subject(wildlife.robin, 5),
    "field mouse": Subject(wildlife.field_mouse),
    "owl": Subject(wildlife.owl),
    "caterpillar": Subject(insects.caterpillar, 5, faces="right"),
    "spider web": Subject(insects.spider_web, 10),
    "carrot": Subject(vegetables.carrot, 22),
    "leek": Subject(vegetables.leek, 12),
    "onion": Subject(vegetables.onion, 6),
    "apple": Subject(fruit.apple, 8),
    "pear": Subject(fruit.pear, 8),
    "strawberry": Subject(fruit.strawberry, 14),
    "cherries": Subject(fruit.cherries, 6),
    "toadstool": Subject(plants.toadstool, 2),
    "acorn": Subject(plants.acorn, 10),
    "sunflower": Subject(plants.sunflower, 6),
    "tulip": Subject(plants.tulip, 6),
    "seedling": Subject(plants.seedling),
    "wheat ear": Subject(plants.wheat_ear, 12),
    "jam jar": Subject(household.jam_jar, 2),
    "mug": Subject(household.mug, 2),
    "kettle": Subject(household.kettle, 2),
    "whisk": Subject(household.whisk, 8),
    "rolling pin": Subject(household.rolling_pin, 8),
    "mixing bowl": Subject(household.mixing_bowl, 2, faces="right"),
    "cupcake": Subject(household.cupcake, 2),
    "candle": Subject(household.candle, 1, faces="right"),
    "trowel": Subject(tools.trowel, 8),
    "garden fork": Subject(tools.garden_fork, 6),
    "spade": Subject(tools.spade, 6),
    "wellington boot": Subject(tools.wellington_boot, 3, faces="right"),
    "flower pot": Subject(tools.flower_pot, 2),
    "nest box": Subject(tools.nest_box, 2),
    "basket": Subject(tools.basket, 2),
    "rain cloud": Subject(weather.rain_cloud, 2),
    "sun": Subject(weather.sun, 12),
    "crescent moon": Subject(weather.crescent_moon, 14, faces="right"),
    "umbrella": Subject(weather.umbrella, 14),
    "rainbow": Subject(weather.rainbow, 1),
    "snowflake": Subject(weather.snowflake, 6),
}
