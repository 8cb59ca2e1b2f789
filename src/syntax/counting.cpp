#include "syntax/counting.hpp"

#include <fmt/core.h>

#include <algorithm>

namespace orchard::syntax {

CountRules::CountRules(std::span<const Node> form,
                       std::function<std::string_view(std::string)> keep)
    : form_(form), keep_(std::move(keep)) {
  for (std::size_t at = 1; at < form.size(); at += form[at].size) parts_.push_back(at);
}

std::span<const Node> CountRules::part(std::size_t number) const {
  return form_.subspan(parts_[number], form_[parts_[number]].size);
}

std::vector<std::string_view> CountRules::variables(std::span<const Node> nodes) const {
  std::vector<std::string_view> names;
  for (const Node& node : nodes) {
    if (node.kind == Node::Kind::variable) names.push_back(node.text);
  }
  return names;
}

std::optional<CountFault> CountRules::fault() const {
  const auto shape = [](std::size_t node, std::string message) {
    return CountFault{node, std::move(message),
                      "write (#count ?n (NAME ARGUMENT… ?n) WHERE CONDITION…)"};
  };
  if (parts_.size() < 5) return shape(0, "`#count` has no condition to count");
  if (part(1).size() != 1 || part(1)[0].kind != Node::Kind::variable) {
    return shape(parts_[1], "a variable for the number is to stand here");
  }
  const auto head = part(2);
  if (head.size() < 3 || head[1].kind != Node::Kind::symbol) {
    return shape(parts_[2], "what the count is called, with the number, is to stand here");
  }
  const std::string_view number = part(1)[0].text;
  if (std::ranges::count(variables(head), number) != 1 || head.back().text != number ||
      head.back().kind != Node::Kind::variable) {
    return shape(parts_[2], fmt::format("{} is to be the last argument here, once", number));
  }
  const auto known = variables(head.first(head.size() - 1));
  for (std::size_t counted = 4; counted < parts_.size(); ++counted) {
    for (const std::string_view variable : variables(part(counted))) {
      if (std::ranges::find(known, variable) != known.end()) continue;
      return CountFault{
          parts_[counted],
          fmt::format("{} is none of the arguments that the count is made for", variable),
          "each condition counts once; write several, by #for around them, with a "
          "relation that says which one each is"};
    }
  }
  return std::nullopt;
}

Node CountRules::symbol(std::string text) const {
  Node node = form_[0];
  node.kind = Node::Kind::symbol;
  node.size = 1;
  node.children = 0;
  node.text = keep_(std::move(text));
  return node;
}

CountRules::Nodes CountRules::list(std::initializer_list<Nodes> parts) const {
  Nodes result = {form_[0]};
  result[0].kind = Node::Kind::list;
  result[0].children = static_cast<std::uint32_t>(parts.size());
  for (const Nodes& nodes : parts) result.insert(result.end(), nodes.begin(), nodes.end());
  result[0].size = static_cast<std::uint32_t>(result.size());
  return result;
}

// (NAME_so_far COUNTED ARGUMENT… NUMBER)
CountRules::Nodes CountRules::so_far(std::size_t counted, const Nodes& number) const {
  const auto head = part(2);
  Nodes result = {head[0], symbol(std::string(head[1].text) + "_so_far"),
                  symbol(std::to_string(counted))};
  result[0].children = head[0].children + 1;
  result[0].size = head[0].size + 1;
  result.insert(result.end(), head.begin() + 2, head.end() - 1);
  result.push_back(number.front());
  return result;
}

void CountRules::each(const std::function<bool(std::vector<Node>)>& rule) const {
  const Nodes arrow = {symbol("<=")};
  const auto copy = [&](std::size_t number) {
    const auto nodes = part(number);
    return Nodes(nodes.begin(), nodes.end());
  };
  const auto number = [&](std::size_t value) { return Nodes{symbol(std::to_string(value))}; };
  const Nodes variable = copy(1);
  if (!rule(list({arrow, so_far(0, number(0)), copy(3)}))) return;
  const std::size_t all = parts_.size() - 4;
  for (std::size_t counted = 1; counted <= all; ++counted) {
    const Nodes condition = copy(3 + counted);
    for (std::size_t before = 0; before < counted; ++before) {
      if (!rule(list({arrow, so_far(counted, number(before + 1)),
                      so_far(counted - 1, number(before)), condition}))) {
        return;
      }
    }
    if (!rule(list({arrow, so_far(counted, variable), so_far(counted - 1, variable),
                    list({{symbol("not")}, condition})}))) {
      return;
    }
  }
  (void)rule(list({arrow, copy(2), so_far(all, variable)}));
}

}  // namespace orchard::syntax
