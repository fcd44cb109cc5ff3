package dachshund.core.secret;

import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.security.MessageDigest;
import java.security.SecureRandom;
import java.util.Arrays;
import java.util.Base64;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.Map;
import javax.crypto.Cipher;
import javax.crypto.Mac;
import javax.crypto.SecretKeyFactory;
import javax.crypto.spec.GCMParameterSpec;
import javax.crypto.spec.PBEKeySpec;
import javax.crypto.spec.SecretKeySpec;

/**
 * Seals credentials and files with AES-256-GCM (NIST SP 800-38D): a fresh 96-bit nonce each time, a 128-bit tag. A sealed
 * text is {@code sealed:2:}, the id of its key, a colon, and Base64; it is bound to what it is about, which is authenticated
 * and not kept. Older keys open what they sealed; the newest one seals. Safe for use by many threads.
 */
public final class SecretBox {

    /** Begins every sealed text. */
    public static final String MARK = "sealed:";

    private static final String BOUND = MARK + "2:";
    private static final int NONCE = 12;
    private static final int TAG_BITS = 128;
    private static final int ID_BYTES = 4;

    /** By id, the one that seals first. */
    private final Map<String, SecretKeySpec> keys = new LinkedHashMap<>();

    private final String lost;
    private final SecureRandom random = new SecureRandom();

    /** What was sealed is about something else than what it is to be opened for, or was altered. */
    public static final class NotForThis extends IllegalArgumentException {
        private static final long serialVersionUID = 1;

        NotForThis(String sentence, Throwable cause) {
            super(sentence, cause);
        }
    }

    /**
     * @param key   32 bytes, seals and opens
     * @param older 32 bytes each, open what was sealed before
     */
    public SecretBox(byte[] key, byte[]... older) {
        add(key);
        for (byte[] each : older) {
            add(each);
        }
        this.lost = "";
    }

    private SecretBox(String lost) {
        this.lost = lost;
    }

    private void add(byte[] key) {
        if (key.length != 32) {
            throw new IllegalArgumentException("The key must have 32 bytes.");
        }
        keys.putIfAbsent(id(key), new SecretKeySpec(key, "AES"));
    }

    /** Names a key without telling anything of it: the first bytes of its SHA-256. */
    public static String id(byte[] key) {
        try {
            byte[] hash = MessageDigest.getInstance("SHA-256").digest(key);
            return HexFormat.of().formatHex(Arrays.copyOf(hash, ID_BYTES));
        } catch (GeneralSecurityException impossible) {
            throw new IllegalStateException(impossible);
        }
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
        if (keys.isEmpty()) {
            throw new IllegalArgumentException(lost);
        }
    }

    /** @throws IllegalArgumentException with a sentence, where the key is lost */
    public byte[] seal(byte[] clear) {
        needsKey();
        return sealed(clear, new byte[0]);
    }

    private byte[] sealed(byte[] clear, byte[] about) {
        byte[] nonce = new byte[NONCE];
        random.nextBytes(nonce);
        try {
            byte[] sealed = cipher(Cipher.ENCRYPT_MODE, keys.values().iterator().next(), nonce, about)
                    .doFinal(clear);
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
        GeneralSecurityException last = null;
        for (SecretKeySpec key : keys.values()) {
            try {
                return opened(key, sealed, new byte[0]);
            } catch (GeneralSecurityException wrongKey) {
                last = wrongKey;
            }
        }
        throw new IllegalArgumentException("This was sealed with another key, or altered.", last);
    }

    private static byte[] opened(SecretKeySpec key, byte[] sealed, byte[] about) throws GeneralSecurityException {
        if (sealed.length < NONCE + TAG_BITS / 8) {
            throw new IllegalArgumentException("This is too short to be sealed.");
        }
        byte[] nonce = Arrays.copyOf(sealed, NONCE);
        return cipher(Cipher.DECRYPT_MODE, key, nonce, about).doFinal(sealed, NONCE, sealed.length - NONCE);
    }

    /** @param about what it is for; it opens for that alone */
    public String seal(String clear, String about) {
        needsKey();
        return BOUND + keys.keySet().iterator().next() + ":"
                + Base64.getEncoder()
                        .encodeToString(
                                sealed(clear.getBytes(StandardCharsets.UTF_8), about.getBytes(StandardCharsets.UTF_8)));
    }

    /**
     * Opens a sealed text; one that is not sealed is returned as it is. Seals of the first versions were about nothing, and
     * open for whatever has them.
     *
     * @throws NotForThis where it was sealed for something else
     * @throws IllegalArgumentException with a sentence, where its key is not here
     */
    public String open(String text, String about) {
        if (!text.startsWith(MARK)) {
            return text;
        }
        try {
            if (!text.startsWith(BOUND)) {
                byte[] unbound = Base64.getDecoder().decode(text.substring(MARK.length()));
                return new String(open(unbound), StandardCharsets.UTF_8);
            }
            needsKey();
            String[] parts = text.substring(BOUND.length()).split(":", 2);
            SecretKeySpec key = keys.get(parts[0]);
            if (key == null || parts.length < 2) {
                throw new IllegalArgumentException("This was sealed with the key " + parts[0] + ", which is not here.");
            }
            return new String(
                    opened(key, Base64.getDecoder().decode(parts[1]), about.getBytes(StandardCharsets.UTF_8)),
                    StandardCharsets.UTF_8);
        } catch (GeneralSecurityException other) {
            throw new NotForThis("This was sealed for something else, or altered.", other);
        }
    }

    /** Whether a checksum is that of some bytes. */
    public enum Sum {
        RIGHT,
        /** It is, but was made without a key: anybody can make one. */
        RIGHT_WITHOUT_KEY,
        WRONG,
        KEY_NOT_HERE
    }

    /**
     * A checksum that nobody makes without the key: the id of the key, a colon, and HMAC-SHA-256 (RFC 2104) in hexadecimal,
     * with a key of its own for each purpose. Where the key is lost, SHA-256 led by {@code none:}.
     */
    public String sum(String purpose, byte[] bytes) {
        return keys.isEmpty()
                ? sum("none", null, purpose, bytes)
                : sum(keys.keySet().iterator().next(), purpose, bytes);
    }

    private String sum(String id, String purpose, byte[] bytes) {
        return sum(id, keys.get(id), purpose, bytes);
    }

    private static String sum(String id, SecretKeySpec key, String purpose, byte[] bytes) {
        try {
            byte[] sum = key == null
                    ? MessageDigest.getInstance("SHA-256").digest(bytes)
                    : hmac(hmac(key.getEncoded(), purpose.getBytes(StandardCharsets.UTF_8)), bytes);
            return id + ":" + HexFormat.of().formatHex(sum);
        } catch (GeneralSecurityException impossible) {
            throw new IllegalStateException(impossible);
        }
    }

    private static byte[] hmac(byte[] key, byte[] bytes) throws GeneralSecurityException {
        Mac mac = Mac.getInstance("HmacSHA256");
        mac.init(new SecretKeySpec(key, "HmacSHA256"));
        return mac.doFinal(bytes);
    }

    /** Whether a checksum of {@link #sum} is that of the bytes, by whichever key it names. */
    public Sum isSum(String purpose, byte[] bytes, String sum) {
        String id = sum.substring(0, Math.max(0, sum.indexOf(':')));
        if (id.equals("none")) {
            return sum.equals(sum(id, null, purpose, bytes)) ? Sum.RIGHT_WITHOUT_KEY : Sum.WRONG;
        }
        if (!keys.containsKey(id)) {
            return id.matches("[0-9a-f]{8}") ? Sum.KEY_NOT_HERE : Sum.WRONG;
        }
        return MessageDigest.isEqual(
                        sum.getBytes(StandardCharsets.UTF_8),
                        sum(id, purpose, bytes).getBytes(StandardCharsets.UTF_8))
                ? Sum.RIGHT
                : Sum.WRONG;
    }

    private static Cipher cipher(int mode, SecretKeySpec key, byte[] nonce, byte[] about)
            throws GeneralSecurityException {
        Cipher cipher = Cipher.getInstance("AES/GCM/NoPadding");
        cipher.init(mode, key, new GCMParameterSpec(TAG_BITS, nonce));
        cipher.updateAAD(about);
        return cipher;
    }
}
