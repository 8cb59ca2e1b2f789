// What a page sends, taken apart: nothing that it sends can do worse than be left out.
#pragma once

#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "base/json.hpp"
#include "editing/shelf.hpp"
#include "orchard/line.hpp"

namespace orchard::desk {

using editing::Reading;
using editing::Sheet;
using editing::Shelf;

// {"error": TEXT}
Json error(const std::string& text);
inline Json unread() {
  return error("the description does not read");
}

// Members of a request; empty, `otherwise` or false if they are missing or of another kind.
std::string text_of(const Json& request, const char* name);
double number_of(const Json& request, const char* name, double otherwise, double most);
bool is_set(const Json& request, const char* name);
Sheet sheet_of(const Json& request);

// The names in a term, from the left: go, 2, 3 of (go 2 3).
void add_words(const Term& term, std::vector<std::string>& words);
// Diagnostics with all that the editor underlines.
Json findings_json(const Diagnostics& diagnostics);

// What a request is about: the text as it was read, and the line as far as it can be played.
struct Asked {
  std::shared_ptr<const Reading> reading;
  Line line;
  std::string broke;  // why the line could not be played to its end

  const Game& game() const { return *reading->game; }
  const Position& position() const { return line.last(); }
};

// None if the description does not read.
std::optional<Asked> asked(Shelf& shelf, const Json& request);

}  // namespace orchard::desk
