// From a position and the layout inferred from the rules to a scene.
#pragma once

#include "orchard/picture.hpp"
#include "picture/inferred/layout.hpp"
#include "picture/scene/scene.hpp"

namespace orchard::picture {

Scene scene_of_layout(const Game& game, const PictureLayout& layout, const PictureFrame& frame);

}  // namespace orchard::picture
