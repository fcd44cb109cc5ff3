package dachshund.engine.transaction;

import dachshund.core.ledger.Run;
import dachshund.core.tag.TagValue;
import dachshund.core.transaction.Values;
import java.time.Instant;
import java.util.Map;
import java.util.Optional;

/**
 * What brings a run about.
 *
 * @param at       the instant, UTC
 * @param why      in words
 * @param identity tells the run from all others; of a request, the same whenever it is asked for again
 * @param number   of the request, as it is echoed; null where there is none
 * @param sure     whether it was certainly never begun before: else it may be done already, whoever did it
 * @param now      of each tag that is read, in the order of the design
 * @param lastGood of each, the last that was not bad
 * @param given    values that whoever brought it about has given, by the name that steps call them
 * @param gathered what was gathered already; empty where the run does that
 * @param origin   told how it goes on
 */
record Trigger(
        Instant at,
        String why,
        String identity,
        Object number,
        boolean sure,
        TagValue[] now,
        TagValue[] lastGood,
        Map<String, Object> given,
        Optional<GatheredNow> gathered,
        Origin origin) {

    /** The identity of what a program asked for begins so. */
    static final String CALL = "call:";

    /** Whoever brought it about. */
    interface Origin {

        Origin NONE = new Origin() {
            @Override
            public void done(Run how) {
                // Nobody has to know.
            }

            @Override
            public void letGo() {
                // Nobody has to know.
            }
        };

        /** It was carried out, or failed for good. */
        void done(Run how);

        /** It was not begun, or it is not known how it ended, and it may come again. */
        void letGo();

        /** Whether somebody waits for its end. */
        default boolean isWaiting() {
            return false;
        }
    }

    /** Nobody gives anything, and nobody is told. */
    Trigger(Instant at, String why, String identity, Object number, boolean sure, TagValue[] now, TagValue[] lastGood) {
        this(at, why, identity, number, sure, now, lastGood, Map.of(), Optional.empty(), Origin.NONE);
    }

    /** The same, of which somebody else is told, with what was gathered by now. */
    Trigger of(Origin other, Optional<GatheredNow> known) {
        return new Trigger(at, why, identity, number, sure, now, lastGood, given, known, other);
    }

    /** Whether what it asks for can be told from what anybody else asks for, so that it is done once. */
    boolean once() {
        return asked() || origin != Origin.NONE;
    }

    boolean asked() {
        return number != null;
    }

    /** What it was asked for by, as whoever asked calls it: the plant's number, or a program's words; empty for neither. */
    String request() {
        return asked() ? Values.words(number) : identity.startsWith(CALL) ? identity.substring(CALL.length()) : "";
    }
}
