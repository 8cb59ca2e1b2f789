// The colours of SVG pictures, for light and for dark surroundings.
//
// The roles' colours differ in lightness as well as in hue, so that they stay apart for eyes that
// tell fewer hues, and in print; what is written on a colour has its contrast.
#pragma once

#include <string>

#include "orchard/picture.hpp"
#include "picture/scene/scene.hpp"

namespace orchard::picture {

// The style sheet of a picture.
std::string style_sheet(SvgStyle::Light light, const RoleColours& colours = {});

// Classes: of a filled thing, of a stroke, of what is written on a thing, of the ground.
std::string fill_class(Tone tone);
std::string stroke_class(Tone tone);
std::string on_class(Tone tone);
std::string ground_class(Tone tone);

}  // namespace orchard::picture
