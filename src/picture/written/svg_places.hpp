// Places of a picture that can be clicked, and what stands there in words.
#pragma once

#include <pugixml.hpp>
#include <string>

#include "picture/scene/scene.hpp"

namespace orchard::picture {

// What stands on a spot, in words: as in the legend, if it is there. `roles`: how many there are.
std::string contents_of(const Spot& spot, const Board& board, std::size_t roles);

// Makes an element that lies over a spot what SvgStyle::places says.
void make_place(pugi::xml_node area, const Spot& spot, const Board& board, std::size_t roles);

}  // namespace orchard::picture
