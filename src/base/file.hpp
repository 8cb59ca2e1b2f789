// Files written whole: either the new contents are there, or the old ones are untouched.
#pragma once

#include <string>
#include <string_view>

#include "orchard/diagnostic.hpp"

namespace orchard {

// Writes beside the file and renames. Empty if it worked; else `cannot-write` with the reason.
Diagnostics write_whole_file(const std::string& path, std::string_view contents);

}  // namespace orchard
