// Pictures of a line of play, as `show` and `play` write them: one position, a strip of all, an
// animation, or a picture file for each.
#pragma once

#include <vector>

#include "cli/call.hpp"
#include "orchard/picture.hpp"

namespace orchard::cli {

// Whether the call asks for any.
bool wants_pictures(const Call& call);
// Whether they show every position of the line, and not the last one alone.
bool wants_every_position(const Call& call);
// What only makes sense together. Makes the folder of --frames, so that one that cannot be made is
// told before the work.
Diagnostics check_pictures(const Call& call);
// Writes what is asked for, of --svg, --png and --frames.
Diagnostics write_pictures(const Call& call, const Picture& picture,
                           const std::vector<PictureFrame>& frames);

}  // namespace orchard::cli
