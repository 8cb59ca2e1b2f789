// Pictures as PNG. Any thread may call.
#pragma once

#include <string>

#include "orchard/result.hpp"

namespace orchard {

// A PNG of an SVG picture of this library, scaled. Fails with `cannot-draw` if it is too large.
Result<std::string> to_png(const std::string& svg, double scale = 1.0);

}  // namespace orchard
