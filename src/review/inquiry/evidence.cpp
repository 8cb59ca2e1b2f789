// Evidence in words: the one place where its parts become a sentence.
#include <fmt/core.h>

#include "orchard/review.hpp"

namespace orchard {

std::string_view name_of(Reach::Kind kind) {
  switch (kind) {
    case Reach::Kind::stated:
      return "stated";
    case Reach::Kind::every_position:
      return "every-position";
    case Reach::Kind::depths:
      return "depths";
    case Reach::Kind::some_positions:
      return "some-positions";
    case Reach::Kind::random_games:
      return "random-games";
    case Reach::Kind::proved:
      break;
  }
  return "proved";
}

namespace {

// `in_all`: what stands before the number of positions, "in all" or "in 3 of the".
std::string reach_text(const Reach& reach, std::string_view in_all = "in all") {
  const std::string_view moves = reach.joint_moves ? " and every joint move" : "";
  switch (reach.kind) {
    case Reach::Kind::stated:
      break;
    case Reach::Kind::every_position:
      return reach.positions == 1
                 ? fmt::format("in the only reachable position{}", moves)
                 : fmt::format("{} {} reachable positions{}", in_all, reach.positions, moves);
    case Reach::Kind::depths:
      return reach.depth == 0 ? fmt::format("at the start{}; unknown beyond", moves)
                              : fmt::format("{} {} positions up to depth {}{}; unknown beyond",
                                            in_all, reach.positions, reach.depth, moves);
    case Reach::Kind::some_positions:
      return "in the positions explored; unknown beyond";
    case Reach::Kind::random_games:
      return "in random games; unknown beyond";
    case Reach::Kind::proved:
      return fmt::format("in every reachable position{}: proved by induction", moves);
  }
  return "";
}

}  // namespace

std::string text_of(const std::vector<Choice>& choice) {
  std::string text;
  for (const Choice& one : choice) {
    text += fmt::format("{}{} = {}", text.empty() ? "" : ", ", one.variable, one.value);
  }
  return text;
}

std::string Reach::text() const {
  return reach_text(*this);
}

std::string Evidence::text() const {
  std::string text = finding;
  const auto add = [&text](std::string_view part) {
    if (part.empty()) return;
    text += fmt::format("{}{}", text.empty() ? "" : ", ", part);
  };
  if (!choice.empty()) text += " for " + text_of(choice);
  const bool several = count && *count > 1;
  const bool looked =
      reach.kind == Reach::Kind::every_position || reach.kind == Reach::Kind::depths;
  if (several && of_ends) {
    text += fmt::format(" ({} of {} ends)", *count, *of_ends);
  } else if (several && looked && reach.joint_moves) {
    add(fmt::format("{} times", *count));
  } else if (several && looked) {
    add(reach_text(reach, fmt::format("in {} of the", *count)));
    for (const std::string& remark : remarks) text += "; " + remark;
    return text;
  } else if (several) {
    add(fmt::format("in {} positions", *count));
  }
  add(reach.text());
  for (const std::string& remark : remarks) text += "; " + remark;
  return text;
}

}  // namespace orchard
