// One scene as strokes of SVG.
#pragma once

#include <pugixml.hpp>

#include "picture/scene/scene.hpp"

namespace orchard::picture {

struct BlockSize {
  double width = 0;
  double height = 0;
};

// Adds the scene to a group, its top left corner at 0, 0, and says how much room it takes.
// `places`: as SvgStyle::places.
BlockSize add_scene(pugi::xml_node group, const Scene& scene, bool places = false);

}  // namespace orchard::picture
