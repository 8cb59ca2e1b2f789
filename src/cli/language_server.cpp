// The Language Server Protocol over standard input and output: `orchard language-server`.
#include "language_server/language_server.hpp"

#include <unistd.h>

#include "cli/call.hpp"
#include "language_server/message_stream.hpp"

namespace orchard::cli {

Status language_server(const Call& call) {
  const auto options = load_options(call);
  if (!options) return report(call, options.diagnostics());
  language_server::MessageStream stream(STDIN_FILENO, STDOUT_FILENO);
  bool written = true;
  language_server::LanguageServer server(*options, [&](const Json& message) {
    if (!stream.send(json_text(message))) written = false;
  });
  while (!server.ended() && written) {
    const auto message = stream.receive(call.stop);
    if (!message) break;
    server.receive(*message);
  }
  if (!written)
    return report(call, plain_error("cannot-write", "the editor takes no more messages"));
  if (!stream.fault().empty()) {
    return report(call, plain_error("bad-message", stream.fault(),
                                    "this command is begun by an editor, which sends it messages"));
  }
  if (call.stop.stop_requested()) return Status::done;
  if (server.ended_in_order()) return Status::done;
  return report(call, plain_error("bad-message", "the input ended before shutdown and exit",
                                  "this command is begun by an editor, which sends it messages"));
}

}  // namespace orchard::cli
