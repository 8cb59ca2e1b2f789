// How many slips of the pen are found without playing: seeded slips over every rule of every demo
// game, and edits that change nothing, which must not be flagged. The shares are printed.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <array>
#include <filesystem>

#include "orchard/random.hpp"
#include "rules/description.hpp"
#include "support/files.hpp"

namespace orchard::rules::slips_test {
namespace {

using syntax::NodeIndex;

// A text with edits at stretches of it, applied from the end.
struct Edit {
  std::uint32_t begin;
  std::uint32_t end;
  std::string text;
};

std::string edited(std::string text, std::vector<Edit> edits) {
  std::ranges::sort(edits, std::greater{}, &Edit::begin);
  for (const Edit& edit : edits) text.replace(edit.begin, edit.end - edit.begin, edit.text);
  return text;
}

class Slips {
 public:
  Slips(std::string path, std::uint64_t seed)
      : path_(std::move(path)), text_(testing::read_file(path_)), random_(seed) {
    Diagnostics none;
    tree_ = std::make_unique<syntax::Tree>(syntax::read(syntax::Source(path_, text_), {}, none));
    for (NodeIndex at = 0; at < tree_->size(); ++at) {
      const bool in_loop = std::ranges::any_of(tree_->forms(), [&](NodeIndex form) {
        return tree_->head(form) == "#for" && at > form && at < form + (*tree_)[form].size;
      });
      const bool form = std::ranges::binary_search(tree_->forms(), at);
      if (!tree_->is_list(at) || tree_->head(at).starts_with('#')) continue;
      if (form || (in_loop && is_loop_part(at))) rules_.push_back(at);
    }
  }

  const std::vector<NodeIndex>& rules() const { return rules_; }

  using Kind = std::optional<std::vector<Edit>> (Slips::*)(NodeIndex);

  std::optional<std::vector<Edit>> letter_lost(NodeIndex rule) {
    std::vector<NodeIndex> names;
    for (NodeIndex at = rule; at < end(rule); ++at) {
      if (!tree_->is_list(at) && written(at).size() > 2 && !written(at).starts_with('#')) {
        names.push_back(at);
      }
    }
    if (names.empty()) return std::nullopt;
    const NodeIndex name = pick(names);
    const auto letter = static_cast<std::uint32_t>(1 + random_.below(written(name).size() - 1));
    const std::uint32_t at = (*tree_)[name].begin + letter;
    return std::vector<Edit>{{at, at + 1, ""}};
  }

  std::optional<std::vector<Edit>> arguments_swapped(NodeIndex rule) {
    std::vector<std::pair<NodeIndex, NodeIndex>> pairs;
    for (NodeIndex at = rule; at < end(rule); ++at) {
      if (!tree_->is_list(at) || is_connective(tree_->head(at))) continue;
      const std::vector<NodeIndex> parts = tree_->children(at);
      for (std::size_t i = 1; i + 1 < parts.size(); ++i) {
        if (written(parts[i]) != written(parts[i + 1])) pairs.emplace_back(parts[i], parts[i + 1]);
      }
    }
    if (pairs.empty()) return std::nullopt;
    return swap(pick(pairs));
  }

  std::optional<std::vector<Edit>> condition_dropped(NodeIndex rule) {
    const std::vector<NodeIndex> parts = conditions(rule);
    if (parts.empty()) return std::nullopt;
    const NodeIndex condition = pick(parts);
    return std::vector<Edit>{{(*tree_)[condition].begin, (*tree_)[condition].end, ""}};
  }

  std::optional<std::vector<Edit>> wrong_variable(NodeIndex rule) {
    std::vector<NodeIndex> variables;
    std::set<std::string_view> names;
    for (NodeIndex at = rule; at < end(rule); ++at) {
      if (!tree_->is_variable(at)) continue;
      variables.push_back(at);
      names.insert(written(at));
    }
    if (names.size() < 2) return std::nullopt;
    const NodeIndex variable = pick(variables);
    names.erase(written(variable));
    const std::vector<std::string_view> others(names.begin(), names.end());
    return std::vector<Edit>{
        {(*tree_)[variable].begin, (*tree_)[variable].end, std::string(pick(others))}};
  }

  // Edits that mean the same.

  std::optional<std::vector<Edit>> conditions_swapped(NodeIndex rule) {
    const std::vector<NodeIndex> parts = conditions(rule);
    if (parts.size() < 2) return std::nullopt;
    return swap({parts[0], parts[1]});
  }
  std::optional<std::vector<Edit>> variable_renamed(NodeIndex rule) {
    std::vector<Edit> edits;
    for (NodeIndex at = rule; at < end(rule); ++at) {
      if (!tree_->is_variable(at) || written(at) != first_variable(rule)) continue;
      // What its name says of it stays said.
      const bool marked = written(at).starts_with("?_");
      edits.push_back(
          {(*tree_)[at].begin, (*tree_)[at].end, marked ? "?_something" : "?something"});
    }
    return edits.empty() || in_loop(rule) ? std::nullopt : std::optional(edits);
  }
  std::optional<std::vector<Edit>> rule_moved_to_the_end(NodeIndex rule) {
    if (in_loop(rule)) return std::nullopt;
    const auto size = static_cast<std::uint32_t>(text_.size());
    return std::vector<Edit>{{(*tree_)[rule].begin, (*tree_)[rule].end, ""},
                             {size, size, std::string(written(rule))}};
  }
  std::optional<std::vector<Edit>> condition_grouped(NodeIndex rule) {
    const std::vector<NodeIndex> parts = conditions(rule);
    if (parts.empty()) return std::nullopt;
    const NodeIndex condition = pick(parts);
    return std::vector<Edit>{{(*tree_)[condition].begin, (*tree_)[condition].end,
                              "(or (and " + std::string(written(condition)) + "))"}};
  }

  bool is_flagged(const std::vector<Edit>& edits) const {
    Diagnostics diagnostics;
    Description::build(syntax::Source(path_, edited(text_, edits)), {}, diagnostics);
    return !diagnostics.empty();
  }

 private:
  static bool is_connective(std::string_view head) {
    return head == "<=" || head == "and" || head == "or" || head == "not" || head == "distinct" ||
           head.starts_with('#');
  }
  bool is_loop_part(NodeIndex node) const {
    return std::ranges::any_of(loops(node), [&](NodeIndex loop) {
      const std::vector<NodeIndex> parts = tree_->children(loop);
      return std::find(parts.begin() + 4, parts.end(), node) != parts.end();
    });
  }
  std::vector<NodeIndex> loops(NodeIndex node) const {
    std::vector<NodeIndex> result;
    for (NodeIndex at = 0; at < node; ++at) {
      if (tree_->is_list(at) && tree_->head(at) == "#for" && node < end(at)) result.push_back(at);
    }
    return result;
  }
  bool in_loop(NodeIndex rule) const { return !loops(rule).empty(); }
  NodeIndex end(NodeIndex node) const { return node + (*tree_)[node].size; }
  std::string_view written(NodeIndex node) const {
    return std::string_view(text_).substr((*tree_)[node].begin,
                                          (*tree_)[node].end - (*tree_)[node].begin);
  }
  std::string_view first_variable(NodeIndex rule) const {
    for (NodeIndex at = rule; at < end(rule); ++at) {
      if (tree_->is_variable(at)) return written(at);
    }
    return {};
  }
  std::vector<NodeIndex> conditions(NodeIndex rule) const {
    std::vector<NodeIndex> parts = tree_->children(rule);
    if (tree_->head(rule) != "<=" || parts.size() < 3) return {};
    parts.erase(parts.begin(), parts.begin() + 2);
    return parts;
  }
  std::vector<Edit> swap(std::pair<NodeIndex, NodeIndex> pair) const {
    const syntax::Node& a = (*tree_)[pair.first];
    const syntax::Node& b = (*tree_)[pair.second];
    return {{a.begin, a.end, std::string(written(pair.second))},
            {b.begin, b.end, std::string(written(pair.first))}};
  }
  template <class Item>
  Item pick(const std::vector<Item>& items) {
    return items[random_.below(items.size())];
  }

  std::string path_;
  std::string text_;
  Random random_;
  std::unique_ptr<syntax::Tree> tree_;
  std::vector<NodeIndex> rules_;
};

struct Named {
  const char* name;
  Slips::Kind kind;
};

struct Share {
  int flagged = 0;
  int all = 0;
  double percent() const { return all == 0 ? 0 : 100.0 * flagged / all; }
};

// Every kind of edit once on every rule of every game.
Share flagged_share(const std::string& text, const std::vector<std::string>& games,
                    const std::vector<Named>& kinds) {
  const char* const what = text.c_str();
  Share total;
  for (const auto& [name, kind] : kinds) {
    Share share;
    for (const std::string& path : games) {
      Slips slips(path, 7);
      for (const NodeIndex rule : slips.rules()) {
        const auto edits = (slips.*kind)(rule);
        if (!edits) continue;
        ++share.all;
        const bool flagged = slips.is_flagged(*edits);
        share.flagged += flagged ? 1 : 0;
        if (std::getenv("ORCHARD_SLIPS") != nullptr) {
          std::printf("%s: %s %s:%d %s\n", flagged ? "found" : "MISSED", name, path.c_str(),
                      static_cast<int>(rule), edits->front().text.c_str());
        }
      }
    }
    std::printf("%s, %s: %d of %d (%.0f %%)\n", what, name, share.flagged, share.all,
                share.percent());
    total.flagged += share.flagged;
    total.all += share.all;
  }
  std::printf("%s, all: %d of %d (%.0f %%)\n", what, total.flagged, total.all, total.percent());
  return total;
}

const std::vector<Named> slips = {{"letter lost", &Slips::letter_lost},
                                  {"arguments swapped", &Slips::arguments_swapped},
                                  {"condition dropped", &Slips::condition_dropped},
                                  {"wrong variable", &Slips::wrong_variable}};
const std::vector<Named> no_slips = {{"conditions swapped", &Slips::conditions_swapped},
                                     {"variable renamed", &Slips::variable_renamed},
                                     {"rule moved", &Slips::rule_moved_to_the_end},
                                     {"condition grouped", &Slips::condition_grouped}};

TEST(Slips, MostAreFoundWithoutPlaying) {
  const Share share = flagged_share("slips found", testing::demo_games(), slips);
  EXPECT_GT(share.all, 400);
  EXPECT_GE(share.percent(), 75);
}

TEST(Slips, MostAreFoundInOtherStyles) {
  const Share share = flagged_share("slips found in the corpus", testing::corpus_games(), slips);
  EXPECT_GT(share.all, 200);
  EXPECT_GE(share.percent(), 75);
}

TEST(Slips, EditsThatMeanTheSameAreNotFlagged) {
  const Share share = flagged_share("same meaning, flagged", testing::demo_games(), no_slips);
  EXPECT_GT(share.all, 300);
  EXPECT_LE(share.percent(), 5);
  const Share other =
      flagged_share("same meaning in the corpus, flagged", testing::corpus_games(), no_slips);
  EXPECT_GT(other.all, 100);
  EXPECT_LE(other.percent(), 5);
}

}  // namespace
}  // namespace orchard::rules::slips_test
