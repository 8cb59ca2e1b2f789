// Scenes as SVG.
#pragma once

#include <string>
#include <vector>

#include "orchard/picture.hpp"
#include "picture/scene/scene.hpp"

namespace orchard::picture {

// One picture, a strip, or (animated) one after another.
std::string to_svg(const std::vector<Scene>& scenes, const std::string& name, const SvgStyle& style,
                   bool animated);

// A document of each scene, all of one size.
std::vector<std::string> to_svg_each(const std::vector<Scene>& scenes, const std::string& name,
                                     const SvgStyle& style);

}  // namespace orchard::picture
