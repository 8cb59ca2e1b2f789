// Changes of texts that an editor offers: a name written instead of another, a finding silenced.
//
// Places are bytes of the text that they belong to. Free functions; any thread may call.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "editing/document.hpp"
#include "editing/names.hpp"
#include "orchard/result.hpp"

namespace orchard::editing {

struct Edit {
  std::uint32_t begin = 0;
  std::uint32_t end = 0;
  std::string instead;
};

// Something that can be done about a diagnostic.
struct Fix {
  std::string title;  // "write `line` instead of `lin`"
  Edit edit;
  bool likely = false;  // the remedy itself, rather than silence
};

// Of a diagnostic in a text; none if it has no plain remedy and cannot be silenced.
std::vector<Fix> fixes_of(const Names& text, const Diagnostic& diagnostic);

// Why a name cannot be called `instead` in these rules; none if it can. A new name that the rules
// have already would make two things one.
std::optional<std::string> fault_in_renaming(const Names& rules, const Name& name,
                                             const std::string& instead);
// All places of a text where the name stands.
std::vector<Edit> renamed(const Names& text, const Name& name, const std::string& instead);

// The text with edits made, which do not overlap.
std::string edited(std::string text, std::vector<Edit> edits);

}  // namespace orchard::editing
