package dachshund.core.archive;

import dachshund.core.aggregate.Samples;
import dachshund.core.tag.Quality;
import dachshund.core.tag.Quality.Grade;

/**
 * How the archive writes qualities: as status codes of OPC UA (OPC 10000-4, 7.39), of 32 bits. Two things that are no status
 * are told by bits that the standard leaves unused: a gap, and that there is no value though its sort has room for one.
 */
public final class Marks {

    /** Why nothing was recorded from an instant on. Their order is kept on disk. */
    public enum Gap {
        AWAY("Dachshund was not running"),
        NO_RULE("no rule kept the tag"),
        LOST("values were lost with a damaged journal"),
        REFUSED("the journal took no more values"),
        SET_ASIDE("our own database refused the values, and they were set aside");

        private final String words;

        Gap(String words) {
            this.words = words;
        }

        public String words() {
            return words;
        }
    }

    /** Severity bad and a subcode of all ones, which no standard uses. */
    private static final int GAP = 0x8FFF0000;

    private static final int GAP_MASK = 0xFFFF0000;
    private static final int REASON = 0xFF;
    /** One of the reserved bits of the lower half. */
    private static final int NO_VALUE = 0x20;

    /** Another one: the value was not recorded when it came to be, but read afterwards from its source's own history. */
    private static final int FILLED = 0x40;

    /** A third one, of the upper reserved ones: a person or a program entered it later. */
    private static final int BY_HAND = 0x1000;

    private static final int OURS = NO_VALUE | FILLED | BY_HAND;

    private static final long CODE = 0xFFFFFFFFL;
    private static final int BAD = 0x80000000;
    private static final int UNCERTAIN = 0x40000000;
    private static final int SEVERITY = 30;

    private Marks() {}

    public static int of(Gap gap) {
        return GAP | gap.ordinal();
    }

    public static boolean isGap(int mark) {
        return (mark & GAP_MASK) == GAP;
    }

    /** @param mark one of a gap; a reason that this version does not know counts as being away */
    public static Gap gap(int mark) {
        int reason = mark & REASON;
        return reason < Gap.values().length ? Gap.values()[reason] : Gap.AWAY;
    }

    /** The status code; where a source has none that says the same class, the general one of the class. */
    public static int of(Quality quality, boolean value) {
        int code = (int) quality.code();
        Grade told = grade(code);
        int fits = told == quality.grade() && !isGap(code)
                ? code & ~OURS
                : switch (quality.grade()) {
                    case GOOD -> 0;
                    case UNCERTAIN -> UNCERTAIN;
                    case BAD -> BAD;
                };
        return value ? fits : fits | NO_VALUE;
    }

    /** The same, of a value that was read afterwards from its source's own history. */
    public static int filled(int mark) {
        return mark | FILLED;
    }

    /** The same, of a value that somebody entered later. */
    public static int byHand(int mark) {
        return mark | BY_HAND;
    }

    public static boolean isByHand(int mark) {
        return !isGap(mark) && (mark & BY_HAND) != 0;
    }

    public static boolean isFilled(int mark) {
        return !isGap(mark) && (mark & FILLED) != 0;
    }

    public static boolean hasValue(int mark) {
        return !isGap(mark) && (mark & NO_VALUE) == 0;
    }

    private static Grade grade(int code) {
        int severity = code >>> SEVERITY;
        return severity == 0 ? Grade.GOOD : severity == 1 ? Grade.UNCERTAIN : Grade.BAD;
    }

    /** The quality; its words where the application has them. */
    public static Quality quality(int mark) {
        if (isGap(mark)) {
            return new Quality(
                    Grade.BAD, 0, "nothing was kept from here on: " + gap(mark).words());
        }
        long code = mark & ~OURS & CODE;
        for (Quality known : new Quality[] {Quality.GOOD, Quality.AWAY, Quality.WAITING, Quality.NOT_A_NUMBER}) {
            if (known.code() == code) {
                return known;
            }
        }
        return new Quality(grade((int) code), code, "");
    }

    /** How it counts where numbers are folded. */
    static byte sample(int mark) {
        if (isGap(mark)) {
            return Samples.GAP;
        }
        if (!hasValue(mark)) {
            return Samples.BAD;
        }
        return switch (grade(mark)) {
            case GOOD -> Samples.GOOD;
            case UNCERTAIN -> Samples.UNCERTAIN;
            case BAD -> Samples.BAD;
        };
    }
}
