package dachshund.core.when;

/**
 * How much a number must change to count.
 *
 * @param amount in the tag's unit, or percent of the tag's range (EURange of OPC 10000-8); 0 or more
 */
public record Deadband(Kind kind, double amount) {

    /** Every change counts. */
    public static final Deadband NONE = new Deadband(Kind.NONE, 0);

    /** In what the amount is given. */
    public enum Kind {
        NONE("any change"),
        ABSOLUTE("by more than an amount"),
        PERCENT("by more than a percentage of the span");

        private final String words;

        Kind(String words) {
            this.words = words;
        }

        public String words() {
            return words;
        }
    }

    public Deadband {
        if (!(amount >= 0) || amount > 1e15) {
            throw new IllegalArgumentException("A deadband is 0 or more.");
        }
        if (kind == Kind.PERCENT && amount > 100) {
            throw new IllegalArgumentException("A percentage of the span is 100 at most.");
        }
    }

    String sentence() {
        String number =
                java.math.BigDecimal.valueOf(amount).stripTrailingZeros().toPlainString();
        return switch (kind) {
            case NONE -> "";
            case ABSOLUTE -> " by more than " + number;
            case PERCENT -> " by more than " + number + " % of the span";
        };
    }
}
