// What is asked of a text at a place, whether or not it reads: what a name is, what could be
// written, another name for it.
#pragma once

#include "desk/request.hpp"

namespace orchard::desk {

// Each takes the texts of all papers, `paper` (which one is meant), `line` and `column` (from 0, in
// units of UTF-16, as the page counts), and `file`: of the description.
Json insight(Shelf& shelf, const std::string& file, const Json& request);
Json completions(Shelf& shelf, const std::string& file, const Json& request);
Json renaming(const std::string& file, const Json& request);

// What can be done about each finding of a text: {"title", "from", "to", "instead"}, by its number.
Json fixes_json(const std::string& file, const std::string& text, const Diagnostics& findings);

}  // namespace orchard::desk
