#include "orchard/skeleton.hpp"

#include <algorithm>

namespace orchard {
namespace {

// NAME stands for the name of the game.
constexpr std::string_view description =
    R"(; NAME: a game to start from. Everything here is yours to change.
;
; Two gardeners take turns to plant a bare bed. Whoever plants the bed in the middle wins.
;
;   orchard show NAME.gdl            what it looks like
;   orchard play NAME.gdl            play it
;   orchard cases NAME.gdl           run the short tests in NAME.cases
;   orchard check NAME.gdl           look for mistakes, in the text and in every position

; Sizes: `--set rows=5` changes one from outside.
(#let rows 3)
(#let columns 3)

; The roles, in the order in which they are listed everywhere.
(role amber)
(role violet)
(other amber violet)
(other violet amber)

; The board.
(#for ?row 1 rows (row ?row))
(#for ?column 1 columns (column ?column))

; What holds at the start. A fact that can hold in a position is called a fluent.
(<= (init (bed ?row ?column bare))
    (row ?row)
    (column ?column))
(init (turn amber))

; Moves. In a game of turns the other role waits.
(<= (legal ?who (plant ?row ?column))
    (true (turn ?who))
    (true (bed ?row ?column bare)))
(<= (legal ?who wait)
    (true (turn ?other))
    (other ?who ?other))

; What a move changes …
(<= (next (bed ?row ?column ?who))
    (does ?who (plant ?row ?column)))
(<= (next (turn ?other))
    (true (turn ?who))
    (other ?who ?other))

; … and what stays as it is. What no rule keeps is gone after a move.
(<= (planted ?row ?column)
    (does ?who (plant ?row ?column)))
(<= (next (bed ?row ?column ?content))
    (true (bed ?row ?column ?content))
    (not (planted ?row ?column)))

; The end, and who wins.
(<= (wins ?who)
    (role ?who)
    (true (bed (#div (#+ rows 1) 2) (#div (#+ columns 1) 2) ?who)))
(<= terminal
    (wins ?who))
(<= (goal ?who 100)
    (wins ?who))
(<= (goal ?who 0)
    (wins ?other)
    (other ?who ?other))
)";

constexpr std::string_view cases = R"(; Short tests of NAME.gdl: orchard cases NAME.gdl

(case "amber begins"
  (start)
  (expect (legal amber (plant 1 1)) (legal violet wait) (not terminal)))

(case "a planted bed stays planted"
  (start)
  (moves (plant 1 1) (plant 1 2))
  (expect (true (bed 1 1 amber)) (true (bed 1 2 violet)))
  (refused amber (plant 1 2)))

(case "the bed in the middle wins"
  (start)
  (moves (plant 1 1) (plant 2 2))
  (expect terminal (goal violet 100) (goal amber 0)))
)";

constexpr std::string_view claims =
    R"(; What must hold in every game of NAME.gdl: orchard check NAME.gdl

(claim "there is never more than one winner"
  (never (and (wins amber) (wins violet))))

(claim "amber, who begins, can always win"
  (can-force amber (wins amber)))
)";

constexpr std::string_view drawing =
    R"(; How NAME.gdl is drawn: orchard show NAME.gdl --png NAME.png

(<= (draw (square ?row ?column))
    (row ?row) (column ?column))
(<= (draw (piece (at ?row ?column) leaf ?who))
    (true (bed ?row ?column ?who))
    (role ?who))
(<= (draw (choice ?who (plant ?row ?column) (at ?row ?column)))
    (legal ?who (plant ?row ?column)))
)";

std::string named(std::string_view text, std::string_view name) {
  constexpr std::string_view placeholder = "NAME";
  std::string result;
  for (std::size_t at = 0; at < text.size();) {
    const std::size_t next = std::min(text.find(placeholder, at), text.size());
    result += text.substr(at, next - at);
    at = next;
    if (at == text.size()) break;
    result += name;
    at += placeholder.size();
  }
  return result;
}

}  // namespace

std::vector<SkeletonFile> skeleton(std::string_view name) {
  const std::string base(name);
  return {{base + ".gdl", named(description, name)},
          {base + ".cases", named(cases, name)},
          {base + ".claims", named(claims, name)},
          {base + ".draw", named(drawing, name)}};
}

}  // namespace orchard
