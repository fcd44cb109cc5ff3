package dachshund.office.design;

import dachshund.core.definition.Definition;
import dachshund.office.filing.Filed;
import java.time.Instant;
import java.util.Locale;

/**
 * One thing in the list of everything that is designed.
 *
 * @param state     a word on how it stands; empty for what does nothing by itself
 * @param shape     name of the state's shape
 * @param sentence  why it stands so; may be empty
 * @param by        who changed it last; empty where that is not known
 * @param at        when; {@link Instant#EPOCH} where that is not known
 * @param filed     where it is filed
 * @param drafted   whether that change is not released yet
 */
public record Design(
        Definition thing,
        String state,
        String shape,
        String sentence,
        String by,
        Instant at,
        Filed filed,
        boolean drafted) {

    public String name() {
        return thing.name();
    }

    /** What a search looks into, in lower case. */
    String text() {
        return (thing.name() + " " + thing.description() + " " + thing.kind().words() + " " + filed.folder() + " "
                        + String.join(" ", filed.labels()))
                .toLowerCase(Locale.ROOT);
    }
}
