// The colours of roles that are named after one: white, black, red, gold …
//
// As with the other tones of roles, what is written on a colour has its contrast, and the first two
// roles differ in lightness: where their colours do not, the second is made paler.
#pragma once

#include "orchard/game.hpp"
#include "picture/scene/scene.hpp"

namespace orchard::picture {

// By role, as far as roles have tones of their own; none for a role that is not named after a
// colour. Games of more roles than there are tones keep the usual ones.
RoleColours role_colours(const Game& game);

}  // namespace orchard::picture
