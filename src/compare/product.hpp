// Two games in one description: the first is played, the second plays along, and `different` holds
// where they are not the same game.
//
// The rules of the second stand beside those of the first under names of their own: its relations
// and fluents have a prefix that no name of either begins with, and its `does` is the first's. Play
// is that of the first, so lines of play are lines of the first.
#pragma once

#include <string>

#include "orchard/compare.hpp"
#include "orchard/game.hpp"

namespace orchard::compare {

struct Product {
  Game game;
  std::string different;  // the relation without arguments, as a formula
};

// Both have the same roles, under the renaming; either both keep secrets or none does.
Result<Product> product_of(const Game& first, const Game& second, const Renaming& renaming);

}  // namespace orchard::compare
