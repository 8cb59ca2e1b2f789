// What a legal move would change.
#pragma once

#include <string>

#include "orchard/picture.hpp"

namespace orchard::cli {

// "-(square 1 1 bare) +(square 1 1 east)"; that it depends on others where they have a choice.
std::string effect_of(const Game& game, const Position& position, const NumberedMove& move);

}  // namespace orchard::cli
