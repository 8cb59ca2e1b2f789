// A small game for tests of cases: two pots; ann begins, and whoever fills the last one wins.
#pragma once

#include <string_view>

namespace orchard::testing {

inline constexpr std::string_view pots = R"((role ann)
(role ben)
(rival ann ben)
(rival ben ann)
(init (pot 1 bare))
(init (pot 2 bare))
(init (turn ann))
(<= (legal ?who (fill ?pot))
    (true (turn ?who))
    (true (pot ?pot bare)))
(<= (legal ?who wait)
    (rival ?who ?other)
    (true (turn ?other)))
(<= (next (pot ?pot ?who))
    (does ?who (fill ?pot)))
(<= (next (pot ?pot ?what))
    (true (pot ?pot ?what))
    (not (filled ?pot)))
(<= (filled ?pot)
    (does ?_who (fill ?pot)))
(<= (next (turn ?rival))
    (true (turn ?who))
    (rival ?who ?rival))
(<= room
    (true (pot ?_pot bare)))
(<= terminal
    (not room))
(<= (goal ?who 0)
    (true (turn ?who)))
(<= (goal ?who 100)
    (role ?who)
    (not (true (turn ?who))))
)";

}  // namespace orchard::testing
