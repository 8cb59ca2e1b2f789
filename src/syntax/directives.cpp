#include "syntax/directives.hpp"

#include <algorithm>

namespace orchard::syntax {
namespace {

constexpr DirectiveFacts table[] = {
    {"#let", "(#let NAME NUMBER)"},
    {"#for", "(#for ?v FROM TO FORM…)"},
    {"#+", "(#+ NUMBER NUMBER)"},
    {"#-", "(#- NUMBER NUMBER)"},
    {"#*", "(#* NUMBER NUMBER)"},
    {"#div", "(#div NUMBER NUMBER)"},
    {"#mod", "(#mod NUMBER NUMBER)"},
    {"#include", "(#include \"FILE\")"},
    {"#count", "(#count ?n (NAME ARGUMENT… ?n) WHERE CONDITION…)"},
};

}  // namespace

std::span<const DirectiveFacts> directives() {
  return table;
}

const DirectiveFacts* find_directive(std::string_view name) {
  const auto found = std::ranges::find(table, name, &DirectiveFacts::name);
  return found == std::end(table) ? nullptr : found;
}

}  // namespace orchard::syntax
