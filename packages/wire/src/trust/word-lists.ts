import type { Language } from '@porch/core';

/*
 * 256 words in each language, one for each value of a byte: everyday things that are told apart when they are read aloud,
 * in letters that every keyboard has. No two of a language are one letter apart; a test holds them to it.
 */
const english = (
  'acorn almond amber anchor apple apron arch arrow attic autumn bacon badge baker bamboo banjo barley barn ' +
  'basin basket beach beard beaver berry birch biscuit blanket blossom bonnet book bottle boulder brick ' +
  'bridge broom brush bucket butter button cabin cable cactus cake camel camera candle canoe canvas carpet ' +
  'carrot castle cedar cello chair chalk cherry chess chimney cinnamon circle clock cloud clover coast ' +
  'cobble coffee comet compass copper coral corner cotton cousin cradle crane cricket crown cup daisy dawn ' +
  'dentist desert diamond dinner dolphin donkey dragon drum duck eagle earth elbow elm engine envelope ' +
  'evening falcon farmer feather fern fiddle field finger flag flower flute forest fossil fountain fox ' +
  'frost galaxy garden garlic gate giraffe glacier glove gold goose grape gravel guitar hammer hammock ' +
  'harbour harvest hazel hedge helmet heron honey hotel igloo island ivory jacket jasmine jewel jungle ' +
  'kettle key kitchen kite kiwi ladder lagoon lantern lemon letter lilac linen lion lobster magnet mango ' +
  'maple marble market marmalade meadow melon mill mirror morning moss mushroom napkin needle nest noodle ' +
  'nutmeg oak ocean olive onion orange orchard otter oven owl oyster paddle palace panda paper pasture ' +
  'pearl pebble pencil pepper piano picnic pigeon pillow pine planet plum pocket pony poppy potato pumpkin ' +
  'pyramid quilt rabbit radish rainbow raven ribbon river robin rose sail salmon sand saxophone scarf ' +
  'school shell silver sister slipper snow spoon spring squirrel star stone summer sunset swan tailor ' +
  'teapot thunder tiger timber tomato tower tractor trumpet tulip tunnel turtle umbrella valley velvet ' +
  'village violin volcano wagon walnut waterfall whale whistle window winter'
).split(' ');

const norwegian = (
  'agurk alarm album ananas anemone anker april arena artist asfalt avis badekar bagasje bakeri balkong ' +
  'bambus banan basar batteri beger billett bjelle bjerk blomst blyant bolle bonde bordduk brev briller ' +
  'brygge bryllup bukett bukse buss cello dadel dalbunn datter delfin demning diamant drage drosje drue ' +
  'dukke ekorn elefant elg eple ert eventyr fabrikk fakkel falk familie farge fasan fersken fiken finger ' +
  'fiolin fisk fjell flagg flaske foss fotball frakk frost frukt fugl furu gaffel galleri garasje gardin ' +
  'gaupe geit gitar glass gran gryte gulrot gummi hage hammer hanske harpe hatt heis hest hjelm hjerte ' +
  'hjort hotell humle hund hval hvete ingefer insekt isbre jakke januar jord jubel juni kaffe kajakk kaktus ' +
  'kalkun kamel kamera kanin kano kart kirke kiste kjeks klokke kobber koffert komet kompass konge kopp ' +
  'kork krabbe krone krydder kunst kurv kveld kylling lakris laks lam lampe lasso lerke lilje linjal loft ' +
  'lykt magnet mandel mango marked marmor maur melon merkur mimose morgen motor mugge museum mynt negl ' +
  'nellik nepe nisse nystekt okse oktober oliven omelett onkel orgel ost ovn palass panda papir paprika ' +
  'paraply park pedal pensel pepper perle piano plante plomme poesi pokal pose potet pute radio rakett ' +
  'ramme rekke ring ris robot rosin rubin safran salat sandal sau seng silke sirkel sirkus sitron sjakk ' +
  'skje skog skole skute sky slange slott smed smykke sofa sol sommer spade spurv stein stige strand svamp ' +
  'svane sykkel tann tavle teater telt teppe termos tiger timian tinde tog tomat torden torsk trapp tromme ' +
  'tunnel turkis ugle ull valmue vase veps vindu vinter vogn vulkan zebra'
).split(' ');

const german = (
  'abend acker adler ahorn alarm album allee ampel ananas angel apfel april arena arzt atlas auster auto ' +
  'bach balkon bambus banane bart basar bauer baum becher beere berg besen biber biene bild birke blatt ' +
  'blitz blume bohne boot brezel brief brille brunnen bus butter cello chor clown dachs dackel dampf datum ' +
  'delfin diamant distel dom dorf drachen draht drossel echo efeu eiche eimer eis elch elefant elster ente ' +
  'erbse esel eule fabrik fahne falke farbe fasan feder feige feld fenster ferien fink fisch flamme flasche ' +
  'flocke flora floss forelle foto frosch fuchs gabel gans garage garten glas gold granit gurke hafen hagel ' +
  'hahn hammer harfe hase haus hecht hecke heft helm hemd herbst herz hirsch hobel honig hund hut igel ' +
  'insel iris jacke jaguar jasmin juni juwel kaffee kaktus kamel kamin kanu karte katze kegel keller kerze ' +
  'kette kiefer kino kissen klee knopf koffer kohle komet korb krabbe kran kreide krone kuchen kupfer lampe ' +
  'leiter lerche lilie linde loipe magnet mais mandel markt marmor maske melone messer mond moos morgen ' +
  'motor museum nadel nebel nelke nest nuss ofen olive onkel orgel otter palast panda papier park pendel ' +
  'perle pfanne pferd pilz planet pokal pony pudel puppe quark quelle rabe radio rakete reh ring roggen ' +
  'rose rubin safran salat schach schaf schere schiff schule schwan seide sessel silber sofa sommer sonne ' +
  'spaten specht spinat stadt stern storch strand tafel tanne tasse taube teich tiger tinte tomate torte ' +
  'tulpe tunnel turm ufer uhr vogel vulkan waffel wald wasser wespe wiese winter wolke wurzel zebra ziege ' +
  'zimt zirkus zucker'
).split(' ');

export const wordLists: Readonly<Record<Language, readonly string[]>> = { en: english, no: norwegian, de: german };
