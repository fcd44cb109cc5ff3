package dachshund.core.destination;

import dachshund.core.layout.SqlType;
import dachshund.core.layout.SqlType.Family;
import java.util.List;
import java.util.Optional;

/**
 * Whether what a layout writes fits a column that is there. Engines convert silently where they can (a number to a text, a
 * decimal to a whole number); here such a pair is a conflict, so that nothing is rounded or turned unseen.
 *
 * @param fits   whether rows can be written
 * @param advice what will be refused or cut all the same; empty for nothing
 */
public record TypeFit(boolean fits, Optional<String> advice) {

    private static final TypeFit WELL = new TypeFit(true, Optional.empty());
    private static final TypeFit NOT = new TypeFit(false, Optional.empty());
    private static final List<Family> WHOLE = List.of(Family.SMALLINT, Family.INTEGER, Family.BIGINT);
    private static final int[] WHOLE_DIGITS = {5, 10, 19};
    private static final int UNLIMITED_TEXT = 10_000;

    public static TypeFit of(SqlType wanted, SqlType there) {
        int whole = WHOLE.indexOf(wanted.family());
        if (whole >= 0) {
            return wholeInto(whole, there);
        }
        return switch (wanted.family()) {
            case BOOLEAN -> there.family() == Family.BOOLEAN || WHOLE.contains(there.family()) ? WELL : NOT;
            case DOUBLE -> there.family() == Family.DOUBLE ? WELL : NOT;
            case DECIMAL -> decimalInto(wanted, there);
            case TEXT ->
                there.family() != Family.TEXT
                        ? NOT
                        : there.size() >= wanted.size()
                                ? WELL
                                : advice("it holds " + there.size() + " characters; longer texts will be set aside");
            case JSON ->
                there.family() == Family.JSON || there.family() == Family.TEXT && there.size() >= UNLIMITED_TEXT
                        ? WELL
                        : NOT;
            case TIME, TIMESTAMP ->
                there.family() != wanted.family()
                        ? NOT
                        : there.size() >= wanted.size()
                                ? WELL
                                : advice("it holds " + there.size()
                                        + " fraction digits; finer parts of a second are lost");
            default -> there.family() == wanted.family() ? WELL : NOT;
        };
    }

    private static TypeFit wholeInto(int wanted, SqlType there) {
        int has = WHOLE.indexOf(there.family());
        if (has >= 0) {
            return has >= wanted ? WELL : advice("numbers too large for it will be set aside");
        }
        if (there.family() == Family.DECIMAL) {
            return there.size() - there.scale() >= WHOLE_DIGITS[wanted]
                    ? WELL
                    : advice("numbers with more than " + (there.size() - there.scale()) + " digits will be set aside");
        }
        return there.family() == Family.DOUBLE ? WELL : NOT;
    }

    private static TypeFit decimalInto(SqlType wanted, SqlType there) {
        if (there.family() == Family.DOUBLE) {
            return advice("a double holds about 15 digits");
        }
        if (there.family() != Family.DECIMAL || there.scale() < wanted.scale()) {
            return NOT;
        }
        int before = there.size() - there.scale();
        return before >= wanted.size() - wanted.scale()
                ? WELL
                : advice("numbers with more than " + before + " digits before the point will be set aside");
    }

    private static TypeFit advice(String sentence) {
        return new TypeFit(true, Optional.of(sentence));
    }
}
