// The questions that every game is asked.
#pragma once

#include "review/inquiry/inquiry.hpp"

namespace orchard::review {

// Requirements, which decide whether a review fails.
Conclusion ask_opens(Watchlist& list);
Conclusion ask_ends(Watchlist& list);
Conclusion ask_moves(Watchlist& list);
Conclusion ask_winnable(Watchlist& list);
Conclusion ask_scored(Watchlist& list);
Conclusion ask_single_valued(Watchlist& list);
Conclusion ask_declared(Watchlist& list);
// What is hardly meant.
Conclusion ask_settled(Watchlist& list);
Conclusion ask_effect(Watchlist& list);
Conclusion ask_dead(Watchlist& list);
// What the game is like.
Conclusion ask_turns(Watchlist& list);
Conclusion ask_draws(Watchlist& list);
Conclusion ask_balance(Watchlist& list);
Conclusion ask_alike(Watchlist& list);
Conclusion ask_symmetry(Watchlist& list);
Conclusion ask_sum(Watchlist& list);
Conclusion ask_outcomes(Watchlist& list);

}  // namespace orchard::review
