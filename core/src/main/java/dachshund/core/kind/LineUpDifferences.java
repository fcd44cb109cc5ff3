package dachshund.core.kind;

import dachshund.core.definition.Follows;
import dachshund.core.definition.Named;
import dachshund.core.definition.Sentences;
import java.util.List;
import java.util.Optional;

/** The line-up that a design belongs to, in sentences. */
final class LineUpDifferences {

    private LineUpDifferences() {}

    static <M> void introduced(Optional<Follows<M>> is, Named named, List<String> sentences) {
        is.ifPresent(follows -> sentences.add("Follows " + named.name(follows.original()) + "."));
    }

    static <M> void changed(Optional<Follows<M>> was, Optional<Follows<M>> is, Named named, Sentences sentences) {
        if (ofItsOwn(was).equals(ofItsOwn(is))) {
            return;
        }
        sentences.add(
                is.isEmpty()
                        ? "No longer follows " + named.name(was.orElseThrow().original()) + "."
                        : was.isEmpty()
                                ? "Follows " + named.name(is.get().original()) + "."
                                : "What it has of its own in the line-up changes.");
    }

    /** What a line has of its own; what its original made it stands in the rest of the difference. */
    private static <M> Optional<Follows<M>> ofItsOwn(Optional<Follows<M>> follows) {
        return follows.map(each -> each.withMade(Optional.empty()));
    }
}
