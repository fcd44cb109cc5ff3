package dachshund.core.audit;

import dachshund.core.secret.SecretBox;

/**
 * Entries of which each carries a checksum over itself and the checksum of the one before: HMAC-SHA-256 (RFC 2104) with a
 * key that is derived from the installation's, so that whoever can write the table, but has not the key, cannot make it
 * fit again. Without a key it is SHA-256, which holds against accidents alone, and is said.
 */
public final class AuditChain {

    /** Stands before the first entry. */
    public static final String BEGIN = "";

    private static final String PURPOSE = "audit";

    private AuditChain() {}

    /** The checksum of an entry that follows the one with the given checksum. */
    public static String sum(SecretBox secrets, String before, AuditEntry entry) {
        return secrets.sum(PURPOSE, entry.after(before));
    }

    /** What is found on a walk along the entries, from the first one on. */
    public static final class Walk {

        private final SecretBox secrets;
        private String before = BEGIN;
        private long entries;
        private long withoutKey;
        private String broken = "";

        public Walk(SecretBox secrets) {
            this.secrets = secrets;
        }

        /**
         * The next entry with the checksum that was kept beside it.
         *
         * @return whether all is whole so far
         */
        public boolean next(AuditEntry entry, String sum) {
            if (!broken.isEmpty()) {
                return false;
            }
            if (entry.number() != entries + 1) {
                broken = entry.number() > entries + 1
                        ? "Entry " + (entries + 1) + " is missing."
                        : "Entry " + entry.number() + " is there twice.";
            } else {
                switch (secrets.isSum(PURPOSE, entry.after(before), sum)) {
                    case RIGHT -> {}
                    case RIGHT_WITHOUT_KEY -> withoutKey++;
                    case KEY_NOT_HERE ->
                        broken = "Entry " + entry.number()
                                + " was made with a key that is not here; whether it was altered cannot be told.";
                    case WRONG ->
                        broken = "Entry " + entry.number() + " was altered, or what stands before it was removed.";
                }
            }
            entries++;
            before = sum;
            return broken.isEmpty();
        }

        /** How many were looked at. */
        public long entries() {
            return entries;
        }

        /** How many of them were made while there was no key. */
        public long withoutKey() {
            return withoutKey;
        }

        /** The first that is not whole, in a sentence; empty where all are. */
        public String broken() {
            return broken;
        }

        /** The checksum of the last entry. */
        public String last() {
            return before;
        }
    }
}
