package dachshund.core.when;

import dachshund.core.tag.TagRef;
import java.time.Duration;
import java.util.Optional;
import java.util.stream.Stream;

/**
 * What the plant is told about the row that it has asked for by a number. The number itself is written last, as an echo, into the
 * tag that its request names; a bit is a code of 1 and 0.
 *
 * @param of     what has to be true of the row before the plant is told so
 * @param code   tag that gets one of the codes
 * @param text   tag that gets a text: empty, or why not
 * @param done   code of a row of which it is true
 * @param failed code of a row that was set aside, discarded or refused
 * @param settle how long after the number the row's values are looked at, for a plant that writes its number before its data;
 *               up to 60 s
 */
public record Confirmation(
        Of of, Optional<TagRef> code, Optional<TagRef> text, long done, long failed, Duration settle) {

    public static final Duration LONGEST_SETTLE = Duration.ofSeconds(60);

    public Confirmation {
        if (settle.isNegative() || settle.compareTo(LONGEST_SETTLE) > 0) {
            throw new IllegalArgumentException("Values are looked at up to 60 s after the number.");
        }
    }

    /** What is confirmed of a row. */
    public enum Of {
        /** It is on our disk, forced: a loss of power takes it no more. */
        SAFE("is safe on disk"),
        /** Every destination that takes it has committed it. */
        LANDED("has landed");

        private final String words;

        Of(String words) {
            this.words = words;
        }

        /** Said of a row. */
        public String words() {
            return words;
        }
    }

    /** With the usual codes, into no tag yet. */
    public static Confirmation that(Of of) {
        return new Confirmation(of, Optional.empty(), Optional.empty(), 1, 3, Duration.ZERO);
    }

    /** The tags that it writes, beside the number's. */
    public Stream<TagRef> tags() {
        return Stream.of(code, text).flatMap(Optional::stream);
    }

    public Confirmation with(Of other) {
        return new Confirmation(other, code, text, done, failed, settle);
    }

    public Confirmation withCodes(long otherDone, long otherFailed) {
        return new Confirmation(of, code, text, otherDone, otherFailed, settle);
    }

    public Confirmation withCode(Optional<TagRef> other) {
        return new Confirmation(of, other, text, done, failed, settle);
    }

    public Confirmation withText(Optional<TagRef> other) {
        return new Confirmation(of, code, other, done, failed, settle);
    }

    public Confirmation withSettle(Duration other) {
        return new Confirmation(of, code, text, done, failed, other);
    }

    /** The same for another machine; what that lacks is a gap. */
    public Confirmation swapped(When.Swap swap) {
        return withCode(code.flatMap(swap::kept)).withText(text.flatMap(swap::kept));
    }
}
