#include "syntax/name_pool.hpp"

#include <algorithm>

namespace orchard::syntax {

std::string_view NamePool::folded(std::string_view text) {
  const auto is_upper = [](char c) { return c >= 'A' && c <= 'Z'; };
  if (std::none_of(text.begin(), text.end(), is_upper)) return text;
  return intern(std::string(text));
}

std::string_view NamePool::intern(std::string text) {
  for (char& c : text) {
    if (c >= 'A' && c <= 'Z') c = static_cast<char>(c - 'A' + 'a');
  }
  if (const auto known = names_.find(text); known != names_.end()) return *known;
  return keep(std::move(text));
}

std::string_view NamePool::keep(std::string text) {
  kept_.push_back(std::make_shared<const std::string>(std::move(text)));
  return *kept_.back();
}

}  // namespace orchard::syntax
