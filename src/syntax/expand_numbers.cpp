// The numbers of a description while it is expanded: sizes, variables of loops, and arithmetic.
#include <fmt/core.h>

#include <optional>

#include "base/similar.hpp"
#include "syntax/arithmetic.hpp"
#include "syntax/directives.hpp"
#include "syntax/expander.hpp"
#include "syntax/names.hpp"

namespace orchard::syntax {

std::optional<std::int64_t> Expander::variable_value(std::string_view name) const {
  for (auto frame = frames_.rbegin(); frame != frames_.rend(); ++frame) {
    if (frame->loop && frame->variable == name) return frame->value;
  }
  return std::nullopt;
}

std::optional<std::int64_t> Expander::leaf_number(NodeIndex node) {
  const std::string_view text = (*raw_)[node].text;
  if (const auto value = raw_->is_variable(node) ? variable_value(text) : integer_value(text)) {
    return value;
  }
  if (raw_->is_symbol(node)) {
    const auto size = lets_.find(std::string(text));
    if (size != lets_.end()) return size->second;
  }
  const auto meant = most_similar(text, names_of_sizes());
  error(node, "bad-directive", fmt::format("{} is not a number here", text),
        meant ? Remedy::name_meant(text, *meant)
              : "write a number, a name of #let, or a variable of #for around this");
  return std::nullopt;
}

std::optional<std::int64_t> Expander::combine(NodeIndex node, std::string_view name, std::int64_t a,
                                              std::int64_t b) {
  const Combined result = combined(name, a, b);
  if (!result.fault.empty()) {
    error(node, "bad-directive", std::string(result.fault), std::string(result.remedy));
  }
  return result.value;
}

// Arithmetic from the last node to the first: an operation finds its operands on top.
std::optional<std::int64_t> Expander::number(NodeIndex node) {
  std::vector<std::int64_t> stack;
  std::vector<bool> is_head((*raw_)[node].size, false);
  const NodeIndex end = node + (*raw_)[node].size;
  for (NodeIndex at = node; at < end; ++at) {
    if (!raw_->is_list(at)) continue;
    const std::string_view head = raw_->head(at);
    const bool arithmetic = find_directive(head) != nullptr && head != "#let" && head != "#for" &&
                            head != "#include" && head != "#count";
    if (!arithmetic || (*raw_)[at].children != 3) {
      if (find_directive(head) != nullptr) {
        wrong_shape(at, head);
      } else {
        const std::string meant = fmt::format("#{}", head);
        error(at, "bad-directive", "this is not a number",
              find_directive(meant) != nullptr
                  ? fmt::format("arithmetic has a # in front: write ({} …)", meant)
                  : "write a number or arithmetic on numbers");
      }
      return std::nullopt;
    }
    is_head[at + 1 - node] = true;
  }
  for (NodeIndex at = end; at-- > node;) {
    if (is_head[at - node]) continue;
    std::optional<std::int64_t> value;
    if (raw_->is_list(at)) {
      const std::int64_t left = stack.back();
      stack.pop_back();
      const std::int64_t right = stack.back();
      stack.pop_back();
      value = combine(at, raw_->head(at), left, right);
    } else {
      value = leaf_number(at);
    }
    if (!value) return std::nullopt;
    stack.push_back(*value);
  }
  return stack.back();
}

std::vector<std::string> Expander::names_of_sizes() const {
  std::vector<std::string> names;
  for (const auto& [name, value] : lets_) names.push_back(name);
  return names;
}

// Sizes given from outside must be sizes of the description.
void Expander::check_sizes() {
  const std::vector<std::string> names = names_of_sizes();
  for (const auto& [name, value] : sizes_) {
    if (lets_.contains(name)) continue;
    std::string list;
    for (const std::string& known : names) list += (list.empty() ? "" : ", ") + known;
    const auto meant = most_similar(name, names);
    diagnostics_.add(plain_error("unknown-size",
                                 fmt::format("the description has no size named {}", name),
                                 meant           ? fmt::format("did you mean {}?", *meant)
                                 : names.empty() ? "it has no (#let NAME NUMBER)"
                                                 : "its sizes are: " + list));
  }
}

}  // namespace orchard::syntax
