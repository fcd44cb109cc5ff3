package dachshund.core.secret;

import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.security.SecureRandom;
import java.util.Base64;
import javax.crypto.Cipher;
import javax.crypto.SecretKeyFactory;
import javax.crypto.spec.GCMParameterSpec;
import javax.crypto.spec.PBEKeySpec;
import javax.crypto.spec.SecretKeySpec;

/**
 * Seals credentials and files with AES-256-GCM (NIST SP 800-38D): a fresh 96-bit nonce each time, a 128-bit tag.
 * Sealed text begins with {@code sealed:}. Safe for use by many threads.
 */
public final class SecretBox {

    /** Begins every sealed text. */
    public static final String MARK = "sealed:";

    private static final int NONCE = 12;
    private static final int TAG_BITS = 128;

    private final SecretKeySpec key;
    private final String lost;
    private final SecureRandom random = new SecureRandom();

    /** @param key 32 bytes */
    public SecretBox(byte[] key) {
        if (key.length != 32) {
            throw new IllegalArgumentException("The key must have 32 bytes.");
        }
        this.key = new SecretKeySpec(key, "AES");
        this.lost = "";
    }

    private SecretBox(String lost) {
        this.key = null;
        this.lost = lost;
    }

    /**
     * With a key made of a passphrase: PBKDF2 with HMAC-SHA-256 (RFC 8018, 5.2).
     *
     * @param salt       at least 16 random bytes, kept beside what is sealed
     * @param iterations what guessing shall cost
     */
    public static SecretBox ofPassphrase(String passphrase, byte[] salt, int iterations) {
        return new SecretBox(derived(passphrase, salt, iterations));
    }

    static byte[] derived(String passphrase, byte[] salt, int iterations) {
        try {
            return SecretKeyFactory.getInstance("PBKDF2WithHmacSHA256")
                    .generateSecret(new PBEKeySpec(passphrase.toCharArray(), salt, iterations, 256))
                    .getEncoded();
        } catch (GeneralSecurityException impossible) {
            throw new IllegalStateException(impossible);
        }
    }

    /**
     * Without its key: nothing can be sealed or opened, and whoever tries is told so.
     *
     * @param sentence what happened to the key, and what to do
     */
    public static SecretBox lost(String sentence) {
        return new SecretBox(sentence);
    }

    /** What happened to the key, in a sentence; empty where it is there. */
    public String lost() {
        return lost;
    }

    private void needsKey() {
        if (key == null) {
            throw new IllegalArgumentException(lost);
        }
    }

    /** @throws IllegalArgumentException with a sentence, where the key is lost */
    public byte[] seal(byte[] clear) {
        needsKey();
        byte[] nonce = new byte[NONCE];
        random.nextBytes(nonce);
        try {
            byte[] sealed = cipher(Cipher.ENCRYPT_MODE, nonce).doFinal(clear);
            return ByteBuffer.allocate(NONCE + sealed.length)
                    .put(nonce)
                    .put(sealed)
                    .array();
        } catch (GeneralSecurityException impossible) {
            throw new IllegalStateException(impossible);
        }
    }

    /** @throws IllegalArgumentException where the bytes were sealed with another key or altered */
    public byte[] open(byte[] sealed) {
        needsKey();
        if (sealed.length < NONCE + TAG_BITS / 8) {
            throw new IllegalArgumentException("This is too short to be sealed.");
        }
        try {
            byte[] nonce = java.util.Arrays.copyOf(sealed, NONCE);
            return cipher(Cipher.DECRYPT_MODE, nonce).doFinal(sealed, NONCE, sealed.length - NONCE);
        } catch (GeneralSecurityException wrongKey) {
            throw new IllegalArgumentException("This was sealed with another key, or altered.", wrongKey);
        }
    }

    public String seal(String clear) {
        return MARK + Base64.getEncoder().encodeToString(seal(clear.getBytes(StandardCharsets.UTF_8)));
    }

    /** Opens a sealed text; one that is not sealed is returned as it is. */
    public String open(String text) {
        return text.startsWith(MARK)
                ? new String(open(Base64.getDecoder().decode(text.substring(MARK.length()))), StandardCharsets.UTF_8)
                : text;
    }

    private Cipher cipher(int mode, byte[] nonce) throws GeneralSecurityException {
        Cipher cipher = Cipher.getInstance("AES/GCM/NoPadding");
        cipher.init(mode, key, new GCMParameterSpec(TAG_BITS, nonce));
        return cipher;
    }
}
