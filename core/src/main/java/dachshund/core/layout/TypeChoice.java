package dachshund.core.layout;

import dachshund.core.tag.DataKind;
import java.util.Optional;

/** Which column type suits a tag (common practice, no source). */
public final class TypeChoice {

    private TypeChoice() {}

    /** The type a column for such a tag begins with. */
    public static SqlType forKind(DataKind kind) {
        return switch (kind) {
            case BOOLEAN -> SqlType.BOOLEAN;
            case INTEGER -> SqlType.BIGINT;
            case UNSIGNED -> SqlType.decimal(20, 0);
            case NUMBER -> SqlType.DOUBLE;
            case TIME -> SqlType.timestamp(6);
            case TEXT, OTHER -> SqlType.text(255);
        };
    }

    private static boolean signed(SqlType type) {
        return switch (type.family()) {
            case SMALLINT, INTEGER, BIGINT -> true;
            default -> false;
        };
    }

    /** A warning where values of the kind will not all fit the type; the rows that do not fit are set aside. */
    public static Optional<String> warning(String tagName, DataKind kind, SqlType type) {
        if (kind == DataKind.TEXT && type.numeric()) {
            return Optional.of(tagName
                    + " is text and this column holds numbers: rows whose text is not a number will be set aside.");
        }
        boolean takesText = type.family() == SqlType.Family.TEXT || type.family() == SqlType.Family.JSON;
        if (kind == DataKind.TEXT && !takesText) {
            return Optional.of(
                    tagName + " is text: rows whose text cannot be read as " + type.words() + " will be set aside.");
        }
        if (kind == DataKind.NUMBER
                && type.numeric()
                && type.family() != SqlType.Family.DOUBLE
                && type.family() != SqlType.Family.DECIMAL) {
            return Optional.of(tagName + " may have decimals and " + type.words()
                    + " holds none: rows with decimals will be set aside. Use double or decimal.");
        }
        if (kind == DataKind.UNSIGNED && signed(type)) {
            return Optional.of(tagName + " may be larger than " + type.words()
                    + " holds: such rows will be set aside. Use decimal(20,0).");
        }
        boolean timeType =
                switch (type.family()) {
                    case TIMESTAMP, DATE, TIME -> true;
                    default -> false;
                };
        boolean timeMismatch = (kind == DataKind.TIME) != timeType;
        if (timeMismatch && kind != DataKind.TEXT && type.family() != SqlType.Family.TEXT) {
            return Optional.of(tagName + " is a " + kind.words() + ", which does not fit " + type.words()
                    + ": such rows will be set aside.");
        }
        return Optional.empty();
    }
}
