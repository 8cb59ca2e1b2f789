// One scene as strokes of SVG, before it is put into a document.
#pragma once

#include <string>

#include "picture/scene/scene.hpp"

namespace orchard::picture {

// A part of the picture with its size; put at a place later.
struct Block {
  std::string svg;
  double width = 0;
  double height = 0;
};

Block write_scene(const Scene& scene);

}  // namespace orchard::picture
