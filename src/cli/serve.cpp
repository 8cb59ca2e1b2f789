// A player of the open match protocol: `orchard serve`.
#include <fmt/core.h>
#include <spdlog/sinks/basic_file_sink.h>
#include <spdlog/sinks/stdout_sinks.h>
#include <spdlog/spdlog.h>

#include "base/counted.hpp"
#include "cli/call.hpp"
#include "cli/output.hpp"
#include "cli/seats.hpp"
#include "protocol/message_server.hpp"
#include "protocol/player.hpp"

namespace orchard::cli {
namespace {

// To the file of --log, else to standard error, where --quiet leaves only what is wrong.
Result<std::shared_ptr<spdlog::logger>> logger_of(const Call& call) {
  std::shared_ptr<spdlog::logger> logger;
  if (const auto file = call.text("log")) {
    try {
      logger = std::make_shared<spdlog::logger>(
          "serve", std::make_shared<spdlog::sinks::basic_file_sink_mt>(*file));
    } catch (const spdlog::spdlog_ex&) {
      return plain_error("cannot-write", fmt::format("cannot write {}", *file),
                         "name a file in a folder that can be written");
    }
  } else {
    logger = std::make_shared<spdlog::logger>("serve",
                                              std::make_shared<spdlog::sinks::stderr_sink_mt>());
    if (call.flag("quiet")) logger->set_level(spdlog::level::warn);
  }
  logger->set_pattern("%Y-%m-%d %H:%M:%S.%e %l: %v");
  logger->flush_on(spdlog::level::info);
  return logger;
}

}  // namespace

Status serve(const Call& call) {
  const auto limits = load_options_for_strangers(call);
  if (!limits) return report(call, limits.diagnostics());
  const std::string who = *call.text("opponent");
  if (who.starts_with("learning:")) {
    return report(call, plain_error("wrong-call", "a table that learns has one seat at a time",
                                    "let it learn with series or learn, and serve learned:FILE"));
  }
  // What a file says is seen when a match begins: it is of one game.
  if (!names_a_file(who)) {
    if (const auto made = make_opponent(who, 1); !made) return report(call, made.diagnostics());
  }
  const auto address = http::read_address(*call.text("listen"));
  if (!address) return report(call, address.diagnostics());
  const std::string name = call.text("called").value_or("orchard");
  if (const auto word = Term::parse(name); !word || !word->is_constant()) {
    return report(call, plain_error("wrong-call", fmt::format("{} cannot be a name here", name),
                                    "give one word without parentheses"));
  }
  const auto logger = logger_of(call);
  if (!logger) return report(call, logger.diagnostics());

  protocol::PlayerOptions options;
  options.name = name;
  options.make = [who](const Game& game, const Role& role, std::uint64_t seed) {
    return opponent_of(game, role, who, seed);
  };
  options.seed = *call.number("seed");
  options.threads = static_cast<unsigned>(*call.number("threads"));
  options.matches = *call.number("matches");
  options.margin_seconds = *call.seconds("margin");
  options.idle_seconds = *call.seconds("idle");
  options.match_bytes = *call.number("match-memory");
  options.think_ahead = call.flag("think-ahead");
  options.messages.bytes = *call.number("message-bytes");
  options.rules = *limits;
  options.log = [log = *logger](const std::string& what, bool wrong) {
    log->log(wrong ? spdlog::level::warn : spdlog::level::info, "{}", what);
  };
  protocol::Player player(options);
  // Each match has a message under way at most, and hosts may ask for more matches than there are.
  constexpr std::size_t beside = 64;
  protocol::MessageServer server([&](const std::string& body) { return player.answer(body); },
                                 options.messages.bytes, 2 * options.matches + beside);
  if (const Diagnostics faults = server.listen_on(*address); !faults.empty()) {
    return report(call, faults);
  }
  print("{} plays by {} at\n   {}\n", name, who, server.address());
  if (!call.flag("quiet")) print("a host begins matches there; an interrupt ends it\n");
  if (output_fault()) return Status::done;
  server.run(call.stop);
  const protocol::PlayerCounts counts = player.counts();
  if (!call.flag("quiet")) {
    print(
        "{}: {} ended, {} given up; {}, {} of them random because nothing was known in time; "
        "{} refused\n",
        counted(counts.begun, "match", "matches"), counts.ended, counts.given_up,
        counted(counts.moves, "move", "moves"), counts.unfinished,
        counted(counts.refused, "message", "messages"));
  }
  return Status::done;
}

}  // namespace orchard::cli
