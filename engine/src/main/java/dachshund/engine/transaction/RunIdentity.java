package dachshund.engine.transaction;

import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.util.HexFormat;

/** What tells things apart in a mark, which has room for 120 letters. */
final class RunIdentity {

    private static final int MOST = 100;

    private RunIdentity() {}

    /** The text itself where a mark keeps it as it is, else its beginning and what tells it from all others (SHA-256). */
    static String of(String text) {
        if (text.length() <= MOST && !text.endsWith(" ")) {
            return text;
        }
        try {
            byte[] all = MessageDigest.getInstance("SHA-256").digest(text.getBytes(StandardCharsets.UTF_8));
            return text.substring(0, Math.min(30, text.length())).strip() + "#"
                    + HexFormat.of().formatHex(all).substring(0, 40);
        } catch (NoSuchAlgorithmException never) {
            throw new IllegalStateException(never); // every Java has it
        }
    }
}
