// The files of the page, which are part of the command.
#pragma once

#include <optional>
#include <string>
#include <string_view>

namespace orchard::desk {

struct Asset {
  std::string contents;
  std::string type;  // "text/css"
};

// A file of the page by its name, or, below "editor/", one of the editor that the system has
// installed. None if there is no such file.
std::optional<Asset> asset(std::string_view name);

// Whether a file belongs to the windows for seats.
bool is_of_seats(std::string_view name);

}  // namespace orchard::desk
