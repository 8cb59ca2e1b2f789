// The expander walks the tree that was read with a stack of open lists and loops, writing a second
// tree in which every node keeps the place it was written at, and, if a directive made it, the
// directive and the values of its variables. Used once, by one thread; the trees, limits, sizes and
// diagnostics that it is given must outlive it.
#pragma once

#include <cstdint>
#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "syntax/expand.hpp"
#include "syntax/included_files.hpp"

namespace orchard::syntax {

class Expander {
 public:
  Expander(Tree& out, const Limits& limits, const Sizes& sizes, Diagnostics& diagnostics)
      : out_(out), limits_(limits), sizes_(sizes), diagnostics_(diagnostics) {}

  // `raw` keeps alive the texts that the written nodes view, so it is kept until the end.
  void run(const Tree& raw, std::uint32_t file_origin);
  void check_sizes();
  void keep_sizes() { out_.sizes_ = lets_; }
  void begin_with(const Tree& rules);
  void add(const Tree& raw);
  bool stopped() const { return stopped_; }

 private:
  struct Frame {
    NodeIndex at = 0;  // next node to read
    NodeIndex end = 0;
    NodeIndex list = no_node;  // the list being written; none for a loop or for the text itself
    bool conditions = false;   // children are conditions, not terms
    // Of a loop:
    bool loop = false;
    bool counts = false;  // a list that is a `#count`
    NodeIndex body = 0;
    NodeIndex directive = 0;
    std::string_view variable;
    std::int64_t value = 0;
    std::int64_t last = 0;
    std::uint32_t origin_outside = 0;
  };

  void read_node();
  void read_list(NodeIndex node);
  void begin_list(NodeIndex node, bool conditions);
  void read_directive(NodeIndex node, std::string_view name);
  void write_count(NodeIndex list, NodeIndex directive);
  void read_let(NodeIndex node);
  void begin_loop(NodeIndex node);
  void enter_round();
  void end_frame();
  void include(NodeIndex node);
  void write_leaf(NodeIndex node, bool is_head);
  void write(Node node);
  void write_number(NodeIndex node, std::int64_t value);
  std::optional<std::int64_t> number(NodeIndex node);
  std::optional<std::int64_t> leaf_number(NodeIndex node);
  std::optional<std::int64_t> combine(NodeIndex node, std::string_view name, std::int64_t a,
                                      std::int64_t b);
  std::optional<std::int64_t> variable_value(std::string_view name) const;
  bool wrong_shape(NodeIndex node, std::string_view name);
  bool error(NodeIndex node, std::string code, std::string message, Remedy remedy);
  bool count_step(NodeIndex node);
  std::vector<std::string> names_of_sizes() const;

  static constexpr std::size_t most_nodes = 20'000'000;  // written

  Tree& out_;
  const Limits& limits_;
  const Sizes& sizes_;
  Diagnostics& diagnostics_;
  const Tree* raw_ = nullptr;
  std::vector<Frame> frames_;
  std::uint32_t origin_ = 0;  // of what is written now
  std::uint32_t file_origin_ = 0;
  Sizes lets_;
  std::map<std::string, std::uint32_t> let_in_file_;  // the origin of the file that gave it
  IncludedFiles files_;
  std::size_t steps_ = 0;
  bool stopped_ = false;
};

}  // namespace orchard::syntax
