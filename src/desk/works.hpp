// What a page can have done in the background.
#pragma once

#include "desk/background.hpp"
#include "desk/request.hpp"

namespace orchard::desk {

// The work that a request asks for by `what`; empty if there is no such work.
Background::Work work_of(const Asked& here, const Json& request);

}  // namespace orchard::desk
