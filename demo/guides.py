"""The shop's guides, in simple markup: a line that starts with "# " is a heading, "- " a list item, "1. " a step, "| " a table
row; all others are paragraphs.
"""

# Guide → title, description, text.
GUIDES: dict[str, tuple[str, str, str]] = {
    "how-to-paddle-solo": (
        "How to paddle solo: strokes that keep a canoe straight",
        "Three strokes, where to sit, and what to do when the wind takes the bow. Written by our river guides.",
        """Alone in a canoe you are both engine and rudder. Sit close to the middle, on the side you paddle on, and let the boat
lean a little towards the blade. It turns more easily than you expect, and that is the point.
# Where to sit
Kneel just behind the centre thwart. From the stern seat the bow rises and every gust turns you round. If you have only a tandem
canoe, turn it about and use the bow seat facing the other way.
# Three strokes are enough
1. The forward stroke: short, upright, close to the hull.
2. The J: at the end of the stroke turn the thumb down and push the blade a hand's width away from the boat.
3. The sweep: a wide arc that turns the bow away from your paddle.
# What if the wind turns the bow?
Move forward by a foot. A light bow acts as a sail. With a bag of water in front of you the boat behaves as if somebody sat
there. Practise on a lake on a calm evening before you take a river alone, and tell somebody when you will be back.
# What to bring
A spare paddle within reach, a line at each end, and a bag of clothes tied in by its handle.""",
    ),
    "how-to-load-a-canoe-on-a-roof-rack": (
        "How to load a canoe on a roof rack without scratching the car",
        "Lift, tie and check: two straps, two lines, ten minutes. With the mistakes that we see on our car park.",
        """Two people lift a canoe at its ends, one person lifts it at one end. Lay a blanket over the rear window, rest the bow on
the rack, walk to the stern and push.
# Straps and lines
- Two straps over the hull, one at each bar, buckles on the same side.
- A line from the bow to the front towing eye, not to the bumper.
- A line from the stern to the rear, just tight enough to hum.
Twist each strap once. A flat strap sings at forty miles an hour and wears through by the end of the holiday.
# How far may it stand out?
A canoe that reaches more than a metre beyond the rear lights needs a flag by day and a light by night. Measure before you
leave, for the rules differ from one country to the next.
# Check again
Stop after five miles. Straps settle, foam gives, and a canoe that sat firmly on the drive has moved by the first roundabout.
# If you are alone
Put one end on the rear bar first, with the other on the grass. Then lift the low end and slide. A rolled towel keeps the hull
from biting into the paint.""",
    ),
    "what-size-canoe-do-i-need": (
        "What size canoe do I need? Length by crew and water",
        "How long a canoe should be for one, two or four people, on lakes and on rivers.",
        """Long canoes run straight and carry much; short ones turn and are light to lift. Most people who come into the shop want
both, and leave with something in between.
Think first of who will sit in it on most days, not on the one day when everybody comes. A couple that paddles with two small
children four times a year is happier in a boat for two and a half.
# One person
Solo canoes are narrower, so that you reach the water on both sides. On small rivers a short boat is a joy. On a windy lake
you will wish for a longer one.
# Two people
The classic tandem is a compromise that has worked for a hundred years. Look at the width at the seats as well as at the
length: a wide boat feels steady at the pier and slow after lunch.
# A family
Weight matters more than length. Add up everybody, the tent, the dog and the food, and compare it with what the maker says at
six inches of freeboard. If you come within a tenth of it, take the next boat up.
# Try before you buy
We keep eleven canoes on the river at Ossel for that. Bring the crew and the bags.""",
    ),
    "canoe-or-kayak-for-beginners": (
        "Canoe or kayak for beginners? How to choose",
        "What is easier, what is drier, what carries more. An honest comparison from people who sell both.",
        """A kayak goes where you point it from the first minute. A canoe takes an afternoon to learn and gives you the rest of your
life to get better.
# Which is easier?
The kayak, because its paddle has two blades: what one side does wrong the other puts right. A sit on top kayak is easier
still, for you cannot be trapped in it.
# Which is drier?
Neither. In a kayak the water runs down the paddle into your lap; in a canoe it comes over the side, seldom and all at once.
# Which carries more?
| boat | people | days of luggage |
| touring kayak | one | three |
| sit on top kayak | one or two | none |
| tandem canoe | two or three | ten |
If you mean to camp, take a canoe. If you mean to go out for an hour after work, alone, take a kayak. And if you do not know,
hire one of each on one weekend.
# What does it cost to begin?
Less than most people think. A used plastic boat, a paddle and a buoyancy aid cost about as much as a week away, and sell
again for nearly the same after two summers.""",
    ),
    "how-to-repair-a-wooden-canoe": (
        "How to repair a wooden canoe: cracks, holes and tired varnish",
        "What you can mend at home with epoxy and patience, and when to bring the canoe to our workshop.",
        """Wood forgives. A cracked plank that would end a plastic boat is a weekend's work, and you will hardly see it.
# Find out how bad it is
Dry the canoe for two weeks under cover. Then tap along the planks with a knuckle: a dull sound means that water has come in.
# Close a crack
1. Open the crack with a knife until you see clean wood.
2. Warm the epoxy, mix it well, and let it run in from above.
3. Press with a batten wrapped in film, and leave it for a day.
4. Sand, varnish thinly three times.
# Replace a piece of plank
Cut the hole square, taper its edges over three inches, and fit a patch of the same cedar. Glass cloth on the inside keeps it
there.
# When to bring it in
Broken ribs, a keel that has come loose, or rot at the stem: bring it to the workshop. We tell you what it costs before we
begin.
# What you need at home
Clear epoxy with a slow hardener, cedar of the same age if you can find it, glass cloth, cling film, two clamps and a lamp
that warms the wood. Work above fifteen degrees: cold epoxy neither runs nor sets.""",
    ),
    "how-to-roll-a-kayak": (
        "How to roll a kayak: the sweep roll in five steps",
        "Learn the movement on land, then in a pool, then on the river. With the three faults that stop most people.",
        """A roll is a movement of the hips. The paddle only gives you something to hold on to while you make it.
Learn it in warm water with somebody beside you who has taught it before. An hour in a pool saves you a season of swimming.
# The sweep roll
1. Set up: lean forward, paddle along the boat, blade flat on the water.
2. Sweep the front blade outward in an arc, as near the surface as you can.
3. Snap the hip that is under you upward. The boat comes first.
4. Keep your head down on your shoulder until the boat is up.
5. Lean forward again, or back, and take a stroke.
# Why does it fail?
- The head comes first. It is the heaviest thing you have.
- The blade dives, because the wrist is not turned.
- You push down on the paddle instead of moving the hips.
# From the pool to the river
Practise in moving water above a wide, deep pool. A roll that works nine times in ten in the pool works five times in ten here.
# How long does it take?
Most people roll after four evenings in the pool. The fifth evening is for the other side.""",
    ),
    "how-to-read-a-river": (
        "How to read a river: currents, eddies and what lies under them",
        "What the surface tells you about the stones below, and where to put the boat.",
        """Water tells you what lies under it, if you know what to look at. Stand on the bank for ten minutes before you launch.
# Vs and tongues
A smooth V that points downstream shows deep water between two stones: go there. A V that points upstream has a stone at its
tip.
# Waves that stay
A wave that stays in one place stands over something. A row of even waves in the middle means depth and speed. A single wave
that breaks towards you is a hole, and you do not want to be in it.
# Eddies
Behind each large stone the water stands still or runs back. These are your resting places. Cross the line at an angle, lean
into the turn, and have a look at what comes next.
# From the bank
1. Look for the way through from the bottom up.
2. Choose a place to land above it.
3. Choose who goes first, and who waits with a line.
When you cannot see the end of it from the boat, get out and walk. It costs ten minutes.
# What changes with the level
After rain the stones drown and the water gets pushy; in a dry month the same place is a maze. Note the level of each trip in
a book.""",
    ),
    "what-to-wear-canoeing-in-autumn": (
        "What to wear canoeing in autumn: layers for cold water",
        "Dress for the water, not for the air. What we wear from September to the first frost.",
        """The air is mild, the trees are red, and the river has eight degrees. Dress for a swim that you do not mean to take.
# Three layers
- Next to the skin: wool or a thin synthetic shirt, never cotton.
- Over it: fleece, or a wetsuit of three millimetres.
- Outside: a spray top with tight cuffs, or a dry suit.
# Hands, feet and head
Neoprene boots with a real sole, because you will stand on stones. Gloves with bare palms, so that you feel the paddle. A
woollen hat that fits under a helmet.
# What to keep in the dry bag
A complete set of clothes, a towel, something sweet, and a flask of tea. Change as soon as you are on land. Most people get
cold on the drive home.
# Do I need a dry suit?
Below ten degrees of water, and wherever the bank is more than a few strokes away, we say yes. On a slow river that is waist
deep, with a change of clothes at hand, a wetsuit will do. Try what you wear: stand in the water at the pier up to your chest
before the first trip of the season. If you want to get out at once, so will you on the river.""",
    ),
    "how-to-choose-a-kayak-paddle-length": (
        "How to choose a kayak paddle length",
        "Paddle length by your height and the width of your boat, with a table.",
        """A paddle that is too long tires the shoulders; one that is too short makes you lean. Two numbers decide: how tall you are,
and how wide your boat is.
# Paddle length by height and width
| your height | boat under 60 cm | boat over 60 cm |
| under 160 cm | 210 cm | 220 cm |
| 160 to 175 cm | 215 cm | 230 cm |
| over 175 cm | 220 cm | 240 cm |
# High or low strokes?
If you paddle upright and fast, take off five centimetres. If you sit low and look at birds, add five.
# Carbon or glass?
Carbon is light and stiff, and shows every stone. A carbon blade on a glass shaft is what most of our customers end up with.
Come and try three lengths on the river before you pay for one.
# How to hold it
Put the shaft on your head with both elbows at a right angle: that is where your hands belong. If more than a hand's width is
left between hand and blade on either side, the paddle is long for you, whatever the table says.""",
    ),
    "how-to-store-a-kayak-in-winter": (
        "How to store a kayak in winter: dry, dark and off the ground",
        "Clean it, drain it, support it at two points, and keep mice out. What to do from November to March.",
        """A plastic hull that lies on concrete from November to March has a flat bottom in April. Five minutes of care save it.
# Clean and drain
Rinse with fresh water, open every hatch, and let it dry for two days. Loosen the hatch covers afterwards, so that the rubber
does not set. Salt and sand go on working while you are indoors.
# Support it at two points
Hang it in wide straps or lay it on its side on two padded bars, a third of the way from each end. Never hang it by the handles.
# In a garage
A pair of brackets on the wall costs less than a dinner out. Set them at shoulder height, as far apart as your bulkheads.
# In a garden
Lay it on trestles, deck down, under a tarp that leaves air at both ends. Sunlight ages plastic faster than frost does.
# In a flat
A folding kayak goes under the bed. For all others we rent winter places in our boat store, heated enough to keep the frost
out. Ask in September: they go quickly, and people with good kayak storage ideas of their own have told us about them over the
years.""",
    ),
    "how-to-pack-a-dry-bag": (
        "How to pack a dry bag so that it stays dry",
        "What goes in first, how often to roll it, and why two small bags beat a large one.",
        """A dry bag keeps water out only if you close it properly, and most people do not.
# What goes in first
Soft things at the bottom, hard things in the middle, what you need at noon on top. Leave a quarter of the bag empty.
# Close it
1. Press the air out with your knees.
2. Fold the rim over three times, tightly, without a crease.
3. Bend the ends towards each other and clip them.
# Two small bags beat a large one
A twenty litre bag can be lifted with one hand, fits under a seat, and when it leaks you have another one. Keep the sleeping
bag in a bag of its own inside the bag.
# Where it goes in the boat
Heavy bags low and in the middle, light ones at the ends. Tie them in: a swamped canoe with its bags in it floats higher than
an empty one, and you find everything again.
# When it leaks
Fill it with air, close it, and press it under water. Bubbles show the hole. A dab of seam sealer from the inside, a day to
dry, and it is good for another season. Rubbed corners give up first, so look there when you clean it.""",
    ),
    "canoe-camping-checklist": (
        "Canoe camping checklist: what to take for two nights",
        "Everything that we pack for a weekend on the river, by bag, and what we stopped taking.",
        """This canoe camping checklist has grown over twenty years and shrunk over the last five. It is for two people, two nights
and a mild month.
# To sleep
- tent with dry pegs
- two sleeping bags, each in a bag of its own
- mats, and a patch for them
# To cook
- stove, fuel and two lighters in two places
- one pot, one pan, a sharp knife
- food for three days: rivers rise
# To wear
- what you paddle in
- what you sleep in, which never gets wet
- shoes for camp
# To be safe
- buoyancy aids, worn
- throw line where you can reach it
- map in a case, whistle, first aid
# What we stopped taking
The second pan, the camp chairs, and the axe.
# How we pack it
Six bags for two people: sleep, clothes, food, kitchen, tent, and the small one with what you want before noon. Put the tent
in last, so that it comes out first in the rain. Weigh it all once at home: more than forty kilos for two nights means that
something is in there twice. Leave the list in the bag when you unpack, and strike out what you did not touch.""",
    ),
    "how-to-portage-a-canoe": (
        "How to portage a canoe alone and together",
        "Carrying a canoe round a weir: the yoke, the walk, and how to put it down again.",
        """Between two waters you carry. With a yoke at the right place a canoe of thirty kilos sits on your shoulders like a large hat.
# Lift it alone
1. Stand beside it, roll it onto your thighs, hands on the yoke.
2. Swing it up and over your head, one knee giving the push.
3. Settle the yoke behind your neck and let the bow rise a little.
# Walk
Look at the ground six steps ahead. When the path narrows, the stern follows where your hips were, not where they are.
# With two people
One at each end, boat upright, bags inside only on a trolley. Change sides before the hand gives up.
On grass and on roads a trolley is no shame. We rent them with the boat.
# Before the first carry
Look at the whole path once without a boat. Take the bags first, and you have seen every root before the canoe is on your
head. Tie paddles in lengthways with two short straps; loose ones slide out where the path is steep. And agree on a word for
putting it down, for the one behind sees nothing but the hull. Water first, boat second, lunch third: that order keeps tempers
whole.""",
    ),
    "river-grades-explained": (
        "River grades explained: from I to VI, in plain words",
        "What each grade of white water means, and which you can paddle in an open canoe.",
        """Grades say how hard a stretch of moving water is on an ordinary day. A flood adds one, and so does cold.
# The six grades
| grade | what you meet | open canoe |
| I | small waves, clear way | yes |
| II | waves, easy stones | yes, with practice |
| III | irregular waves, narrow places | for good paddlers |
| IV | powerful, must be looked at from the bank | hardly ever |
| V | violent, long, dangerous | no |
| VI | nobody should | no |
# Who grades a river?
Clubs and guide books, and they do not always agree. Read two, and believe the higher one until you have seen it.
# What does a grade leave out?
How far you are from the next road, how cold the water is, and whether trees lie in it. A grade II a day's walk from anywhere
asks for more than a grade III beside the car park.
# What can I paddle?
Take one grade less than you have been on with a guide. In an open canoe full of bags take off another one: a loaded boat
turns late. All of our trips are grade I and II, and each trip page tells at which level that stops being true.""",
    ),
    "how-to-clean-a-wetsuit": (
        "How to clean a wetsuit that smells",
        "Rinse, soak, dry in the shade. And what never to put on neoprene.",
        """Neoprene smells because something lives in it. Kill that, and the suit is as good as new.
# After each trip
Rinse inside and out with cold fresh water. Hang it by the waist over a thick bar, in the shade, inside out first.
# Once a season
Soak it for an hour in lukewarm water with a cup of white vinegar, then again with a mild soap. Rub nothing, wring nothing.
# Never
- the washing machine
- hot water, radiators, the sun behind a window
- bleach
Zips want a little wax in spring. Small holes take a patch and an evening.
# Boots and gloves
They smell worse, since they never dry inside. Fill them with the same mix of water and vinegar, leave them standing
overnight, and hang them upside down on sticks. Newspaper in the toes draws the last of it out.
# How do I store it?
Flat or on a wide hanger, never folded: a fold stays as a crease that lets water in. A cupboard indoors is better than a garage.
# When is it past saving?
When it is stiff in the knees, or lets in water at every seam. Then cut it up: pieces of old neoprene make good pads for the
roof rack.""",
    ),
    "kayak-safety-rules": (
        "Kayak safety rules that we brief every group on",
        "Ten minutes before you launch: what we tell everybody who hires a kayak from us.",
        """We say the same ten minutes to everybody who hires a boat, from the school class to the old hand.
# Before you launch
- Buoyancy aid on and closed, also on a calm day.
- Somebody on land knows where you go and when you are back.
- Look at the weather of the afternoon, not of the morning.
# On the water
Stay so close together that a voice carries. The slowest sets the pace. Keep away from weirs by three boat lengths, above and
below.
# When somebody falls in
First the people, then the boats, then the paddles. Hold on to your kayak: it is large, it floats, and it is easy to see.
# When to turn back
When the first person is cold. Not when the second one says so.
# What we have with us
A throw line in the first boat and in the last, a first aid box, a blanket of foil, and a telephone in a pouch that floats. We
count heads at every bridge.
# Can I go alone?
You can. Then stay near the bank, wear a suit for the water and not for the air, and choose a stretch that you know.""",
    ),
    "how-to-varnish-a-paddle": (
        "How to varnish a paddle: five thin coats",
        "Sand, wipe, varnish, wait. Which varnish we use in the workshop, and how long to leave it.",
        """To varnish a paddle, sand it to 240, wipe off the dust, and brush on five thin coats of spar varnish, a day apart. Leave
the grips bare or oil them: varnished grips blister the hands.
# What you need
- sandpaper of 120, 180 and 240
- a tin of spar varnish and a little thinner
- a soft brush, a lint-free cloth, two nails to hang it from
# Step by step
1. Take off old varnish that flakes. What holds may stay.
2. Sand along the grain until nothing shines.
3. Thin the first coat by a quarter, so that it goes in.
4. Four more coats, each rubbed down lightly with 240.
# How long does it last?
Two seasons on a lake, one on a stony river. Touch up the tips in autumn, before water gets in.
# What goes wrong
Runs come from thick coats, dust from a floor that was swept on the same day, and a sticky blade from a cold shed. Wait for a
dry day. Rub a run out with 240 once it is hard, and lay one more coat over the place. A milky blade has been varnished damp:
take it down to the wood and begin again.""",
    ),
    "canoeing-with-a-dog": (
        "Canoeing with a dog: how to start",
        "Teach it on land, give it a mat, and take the short trip first.",
        """Most dogs like canoes once they have understood that the floor moves. It takes three short trips.
# On land first
Set the canoe on grass, put a mat in front of you, and feed the dog there for a week.
# The first launch
Choose a pier, no current, no ducks. You get in first. The dog lies between your knees, not in the bow.
# What it needs
A buoyancy aid with a handle on its back, water to drink, shade at noon, and a walk every two hours. A dog that swims well in
a lake does not swim well in moving water.
# Can the floor be slippery?
It is, and that is what frightens most of them. A bath mat with suckers or a piece of old carpet helps more than any word.
# When the canoe tips
Let go of the lead before you launch and never tie it to a seat. In the water take the dog by the handle, push it to the bank
or over the side of the boat from behind, and let it shake before you get in.
# How far?
An hour at first, then half a day. Stop before the dog asks for it.""",
    ),
    "canoeing-with-children": (
        "Canoeing with children: ages, boats and short days",
        "How far, how long, and in which boat. What families told us after thirty years of hire.",
        """Children do not care for miles. They care for frogs, for lunch, and for who sits in the bow.
# From what age?
We take children from three years who stay where they are put. With six they want a paddle of their own; give them one that
floats.
# Which boat?
A wide canoe with a flat floor and a low seat in the middle. Two adults, two children and a bag fit in one of sixteen feet.
# How long is a day?
Two hours on the water, in four pieces. Plan a place with sand for the longest of the breaks.
# Safety
Buoyancy aids with a strap between the legs, put on before the car door opens. One adult at each end of the boat, and none of
them with a phone in hand.
# What do they eat?
More than at home. Pack twice as many sandwiches as you think, and something warm in a flask for whoever fell in. A tin of
biscuits in the last bag is the best argument for the last mile.
# When it rains
Children mind the rain less than you do, if their hands are warm. A tarp over two paddles makes a den in a minute.""",
    ),
    "how-to-dry-a-dry-suit": (
        "How to dry a dry suit, inside too",
        "Sweat is the water that you bring yourself. How to get it out before it stays.",
        """After a day in a dry suit the inside is damp from you, not from the river.
# Turn it inside out
Hang it by the shoulders, zip open, socks pulled out. After half a day turn it back and hang it again.
# Care for the seals
Wash neck and wrists with soap, dust them with talc, and keep them out of the sun.
# Store it
Roll it, never fold it, with the zip open and waxed. In the boot of a car it ages by a year in a summer.
# How long does it take?
A day indoors with a window open, two in a shed in autumn. A fan on the lowest step, aimed into the neck, halves that. Never
use a heater: the layers come apart where it gets hotter than your hand likes.
# What if it smells?
Wash it by hand in lukewarm water with a mild soap, inside first. Rinse twice. Once a year put the outside back in order with
a spray that makes water run off, and let it dry before you roll it up.
# Look for holes
Close the zip, blow the suit up through one wrist, and brush soapy water over the seams.""",
    ),
    "best-knots-for-a-roof-rack": (
        "The best knots for a roof rack: three are enough",
        "The lorry hitch, the round turn and the bowline, and when a strap is better.",
        """With three knots a canoe stays on any roof.
# The lorry hitch
It pulls a line as tight as a strap does and comes undone with one tug.
# Round turn and two half hitches
For the bars: it holds without slipping sideways.
# The bowline
For the bow loop: it never jams, however wet it is.
# Straps or lines?
Straps over the hull, lines at the ends. A knot that you cannot tie in the rain with cold hands is not one that you know.
# Which line?
Eight millimetres of polyester, twice as long as the car. Polypropylene is cheap and slips, nylon stretches when it is wet and
lets the boat walk. Mark the middle with a stitch of red thread, and you find it in the dark.
# Practise at home
Tie each knot ten times around the banister, then ten times behind your back. After that tie them with gloves on. It takes two
evenings in front of the television, and saves an hour in every car park of your life.
Teach them to whoever drives with you, so that two people check each side.
A line that has been under the boat for five summers goes into the garden.""",
    ),
    "how-to-steer-a-canoe": (
        "How to steer a canoe from the stern",
        "The J stroke, the draw and the pry, and who does what in a boat for two.",
        """The one behind steers, the one in front sets the pace and looks for stones. Say it before you launch.
# From the stern
Use the J stroke at the end of every second stroke. Large corrections late are slower than small ones early.
# From the bow
The draw pulls the bow towards your paddle, the cross draw to the other side. On a lake you hardly need either.
# Why does it always turn to one side?
Because the stern paddler is stronger, or sits off the middle. Change sides every ten minutes, or move the bag.
# How do I turn round?
Sweep wide on one side, draw on the other, and the boat spins on the spot. Lean it a little outward and it turns faster still,
for there is less of the keel in the water.
# And with wind?
A canoe turns its lighter end away from the wind. Put the bags where you want the boat to stay: forward when you paddle into
it, aft when it comes from behind. On a wide lake go along the bank that the wind comes from, even if it is longer. Waves from
the side are the time to kneel.""",
    ),
    "how-to-launch-from-a-bank": (
        "How to launch from a steep bank",
        "Ropes, a helper and patience: getting a boat and yourself down without a swim.",
        """A high bank is the hardest metre of many trips.
# The boat first
Tie a line to the bow, let the boat down stern first, and fasten the line to something that will not move.
# Then you
Go down backwards, one hand on the bank, and step into the middle of the boat. Sit down at once.
# Seal launch
In a kayak you can slide in. Choose grass, look for stones below, keep the paddle across the deck, and lean back.
# Where to look for a place
Cattle have often done the work: where they drink, the bank is low and the ground firm. Bridges have steps on one side, mostly
the lower one. Avoid the outside of bends, where the water cuts under and runs fastest.
# Getting out again
It is harder than getting in, and you are tired. Look for the way out before you need it. Turn the bow upstream, come
alongside, put a hand on the grass, then one knee. The boat stays tied until both of you and the last bag are up. Wet clay is
worse than it looks. Cut two steps with the heel before you carry anything heavy down, and fill them in with gravel when you
leave.""",
    ),
    "cold-water-shock": (
        "Cold water shock: what happens in the first minute",
        "What cold water does to the body, minute by minute, and how to live through the first.",
        """The first minute in cold water decides. Not because you freeze, but because you gasp.
# The first minute
The breath goes out of control, the heart races. Do nothing but float: on your back, buoyancy aid closed, until you can say a
whole sentence.
# The first ten minutes
Hands and arms go weak. Get out now, or get onto the boat, or hold on to it with your arms through something.
# The first hour
Now it is about warmth. Heat escapes where the clothes are thin: neck, armpits, groin. Keep your knees up.
# On land
Wind is worse than water. Undress, dry, dress, and drink something warm and sweet.
# How cold is cold?
Gasping begins below fifteen degrees, and is worst between ten and fifteen already, not only near freezing. Our rivers are
that cold from October to May, however warm the air is.
# What helps beforehand?
A buoyancy aid that is closed, for it holds you up while you cannot do it yourself. A suit that keeps water from the skin. And
getting used to it: people who have been in cold water five or six times for two minutes gasp only half as hard.""",
    ),
    "how-to-fix-a-leaking-kayak": (
        "How to fix a leaking kayak: where to look first",
        "Finding the leak takes longer than mending it. Hatches, seams, skeg box, hull.",
        """If your kayak is leaking, where to look first is nearly always the same: the hatches, the skeg box, the seam, and only
then the hull. A kayak leaking where you cannot see it is found with soap and air.
# Find it
1. Dry the inside, and line it with newspaper.
2. Pour two buckets of water in, and look from outside.
3. Or close the hatches, blow in air, and brush soap over the seams: it bubbles.
# Mend it
Plastic wants heat and a rod of the same plastic. Glass wants cloth and resin. Rubber seals want nothing but grease, or a new
seal.
# Test it
An hour on the pond behind the house, before the week at sea.
# When the hull is worn through
Under the seat and at the stern, where it is dragged. A patch inside is not enough there; lay one outside too, and rub its
edge down until the hand feels nothing.
# When not to mend it yourself
A crack longer than a hand in a plastic hull, or a seam that has opened over more than half a metre. Bring it in dry: a wet
boat waits a week before anybody can begin.""",
    ),
    "what-is-a-spray-deck-for": (
        "What is a spray deck for, and do I need one?",
        "What it keeps out, when it is dangerous, and which kind fits your kayak.",
        """It closes the hole that you sit in. Waves and drips stay outside, warmth stays in.
# When do I need one?
At sea always, on white water always, on a lake when the wind is up. On a slow river in July, leave it in the car.
# Nylon or neoprene
Nylon is cool, cheap and easy to take off, and leaks a little. Neoprene is tight and warm, and wants a strong pull.
# Can I get out?
Yes, if you have practised. Pull the loop forward, then up. Do it ten times on land and three times in the water, with somebody
beside you. A child that cannot do it alone goes without.
# Which one fits?
The rim of the cockpit decides, not the length of the kayak. Measure it at its longest and widest, and note the maker and the
year. A deck that is a size too large comes off in the first wave, and one too small will not go on when it is wet and cold.
# How do I care for it?
Rinse it after salt water, dry it in the shade, and rub the rubber edge with a little silicone in spring.""",
    ),
    "how-heavy-is-a-canoe": (
        "How heavy is a canoe? Weights by material",
        "From fifteen to forty kilos: what canoes weigh, and what that means for your back.",
        """Makers like to tell the weight of the lightest version without seats. These are ours, as we weighed them in the shop.
# By material
| material | fifteen feet | seventeen feet |
| polyethylene | 34 kg | 41 kg |
| laminate with foam | 26 kg | 31 kg |
| cedar and canvas | 31 kg | 36 kg |
| carbon | 15 kg | 19 kg |
# What can you lift?
One person carries up to twenty kilos for long and thirty for a short way. Beyond that it is a job for two, or for a trolley.
# What makes it heavier?
Seats of wood add two kilos, a yoke one and a half, skid plates one. Water that has gone into old foam may add five, and does
not come out again. Weigh your boat once with a bathroom scale: you alone, then you with the boat, and take one from the
other.
# Is light always better?
Not on stones. The lightest hulls want water under them at all times. For hire we buy the heavy ones: they have been dropped by
thousands of people and still float. If you carry often and paddle lakes, pay for the kilos that you leave in the shop.""",
    ),
    "how-fast-is-a-kayak": (
        "How fast is a kayak, and how far in a day?",
        "Speeds of touring, sea and river kayaks, with and without wind, for planning a day.",
        """What matters for a plan is not how fast you can go but how fast you go after lunch.
# Ordinary speeds
- on a lake, two people of ordinary strength: three miles an hour
- on a slow river: add the current, take off the weirs
- against a fresh wind: half of it
# How far in a day?
Ten miles are a good day, fifteen a long one. With children count in playgrounds.
# What makes a boat fast
Length on the water and a narrow hull. A long sea kayak passes a short one with the same effort, and turns like a bus.
# Does a better paddle help?
More than a better boat, over a day. A hundred grams less, lifted a thousand times an hour, is what your shoulders talk about
in the evening.
# How to plan with it
Reckon with two and a half miles an hour, breaks included, and add an hour for what you do not know. Note when you were where
on the first three trips; after that you know your own speed, which is the only one that counts.
# And in a group?
As fast as the slowest, less a bit for waiting and for talking.""",
    ),
    "tides-for-sea-kayaking": (
        "Tides for sea kayaking: how to plan with them",
        "Springs and neaps, the rule of twelfths, and the one hour in which you should be ashore.",
        """At sea the water moves under you, twice a day each way, and it is stronger than you are.
# Springs and neaps
Around full and new moon the range is largest and the streams run hardest. A week later all is calmer.
# The rule of twelfths
In the first hour of six the water rises by a twelfth, then by two, three, three, two and one. The middle two hours carry most.
# Plan a day
1. Look up high water for the nearest port.
2. Mark when the stream turns where you paddle.
3. Go out with it, eat, and come back with it.
Wind against tide makes steep waves. If both meet at a headland, be ashore.
# Where do I find the times?
In the tables of the port office, in the harbour, and in most weather programs. Look which clock they use: many tables keep
winter time all year round. Write the times on the back of your hand or on the deck with a soft pencil, for paper does not
last.
# How much stronger is it in a narrow place?
Twice, often three times as strong as outside. Pass headlands and narrows at slack water, and have a beach in mind on both
sides.""",
    ),
    "how-to-plan-a-river-trip": (
        "How to plan a river trip: stretches, levels, ways home",
        "Choose a stretch, look at the level, and know how you get back to the car.",
        """A good trip is decided at the kitchen table.
# Choose a stretch
Ten miles with one weir are better than fifteen with four. Look for places to stop every two miles.
# Look at the level
Each of our trip pages says at which level the river is easy, hard, or closed. After three days of rain wait for two.
# How do you get back?
Two cars, a bicycle at the end, or the train. Our minibus runs from April to October; book it the day before.
# Tell somebody
Where you start, where you end, when you will call. A river trip planner on the phone is fine until the battery is empty.
# What do we take for granted?
That somebody can read a map without a battery, that everyone has dry clothes at the end, and that the plan may be dropped at
breakfast. The best days we had were short ones that we had meant to be long.
# When you plan for others
Ask the weakest, not the strongest, how far they have been. Put the lunch at two thirds of the way, not in the middle: nobody
minds a short afternoon. Then say yes to it or no, aloud.""",
    ),
}
