#include "support/shrink.hpp"

#include <vector>

namespace orchard::testing {
namespace {

struct Part {
  std::size_t first = 0;
  std::size_t size = 0;
};

// The forms in parentheses at the outermost level, and one level further in.
std::vector<Part> parts_of(const std::string& rules) {
  std::vector<Part> result;
  std::vector<std::size_t> open;
  for (std::size_t i = 0; i < rules.size(); ++i) {
    if (rules[i] == '(') open.push_back(i);
    if (rules[i] != ')' || open.empty()) continue;
    const std::size_t first = open.back();
    open.pop_back();
    if (open.size() <= 1) result.push_back({first, i + 1 - first});
  }
  return result;
}

}  // namespace

std::string shrink(const std::string& rules, const std::function<bool(const std::string&)>& fails) {
  std::string smallest = rules;
  for (bool smaller = true; smaller;) {
    smaller = false;
    const std::vector<Part> parts = parts_of(smallest);
    for (auto part = parts.rbegin(); part != parts.rend(); ++part) {
      std::string without = smallest;
      without.erase(part->first, part->size);
      if (!fails(without)) continue;
      smallest = without;
      smaller = true;
      break;  // the other parts stand elsewhere now
    }
  }
  return smallest;
}

}  // namespace orchard::testing
