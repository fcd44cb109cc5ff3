package dachshund.engine.transaction;

import dachshund.core.tag.TagValue;
import java.time.Instant;

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
 */
record Trigger(
        Instant at, String why, String identity, Object number, boolean sure, TagValue[] now, TagValue[] lastGood) {

    boolean asked() {
        return number != null;
    }
}
