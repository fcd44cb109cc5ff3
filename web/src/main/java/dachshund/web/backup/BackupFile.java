package dachshund.web.backup;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.SerializationFeature;
import dachshund.core.secret.SecretBox;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.security.SecureRandom;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HexFormat;
import java.util.List;
import java.util.Locale;
import java.util.zip.ZipEntry;
import java.util.zip.ZipFile;
import java.util.zip.ZipOutputStream;

/**
 * A backup: a ZIP file with its manifest (JSON, in clear) and its parts, each in pieces that are sealed with a passphrase
 * (AES-256-GCM, the key by PBKDF2). The manifest stands in it sealed as well, so that neither can be exchanged.
 */
final class BackupFile {

    static final int FORM = 1;
    /** What OWASP's Password Storage Cheat Sheet asks for with HMAC-SHA-256 (2023; from memory). */
    static final int ITERATIONS = 600_000;

    private static final int MOST_ITERATIONS = 20_000_000;

    private static final int PIECE = 4 << 20;
    private static final String MANIFEST = "manifest.json";
    private static final String SEALED = "manifest.sealed";
    private static final ObjectMapper JSON = new ObjectMapper().enable(SerializationFeature.INDENT_OUTPUT);

    /** A part by its name, in clear, with its length in bytes, its pieces and its SHA-256. */
    record Part(String name, long bytes, int pieces, String sha256) {}

    /** Rows that a destination's journal held when the backup was made: they are not in it. */
    record Held(String destination, long rows) {}

    /** @param at when it was begun, ISO 8601 in UTC */
    record Manifest(int form, String at, String site, String salt, int iterations, List<Part> parts, List<Held> held) {}

    private BackupFile() {}

    /** What is written into one; the parts are given one after the other. */
    static final class Writer implements AutoCloseable {

        private final ZipOutputStream zip;
        private final byte[] salt = new byte[16];
        private final SecretBox box;
        private final List<Part> parts = new ArrayList<>();

        private final int iterations;

        /** @param iterations what guessing the passphrase shall cost */
        Writer(OutputStream out, String passphrase, int iterations) {
            this.iterations = iterations;
            new SecureRandom().nextBytes(salt);
            box = SecretBox.ofPassphrase(passphrase, salt, iterations);
            zip = new ZipOutputStream(out, StandardCharsets.UTF_8);
            zip.setLevel(0); // what is sealed cannot be made smaller
        }

        void part(String name, InputStream content) throws IOException {
            MessageDigest digest = sha256();
            long bytes = 0;
            int pieces = 0;
            for (byte[] piece = content.readNBytes(PIECE); piece.length > 0; piece = content.readNBytes(PIECE)) {
                digest.update(piece);
                bytes += piece.length;
                put(piece(name, pieces++), box.seal(piece));
            }
            parts.add(new Part(name, bytes, pieces, HexFormat.of().formatHex(digest.digest())));
        }

        private void put(String name, byte[] content) throws IOException {
            zip.putNextEntry(new ZipEntry(name));
            zip.write(content);
            zip.closeEntry();
        }

        void manifest(String at, String site, List<Held> held) throws IOException {
            byte[] manifest = JSON.writeValueAsBytes(
                    new Manifest(FORM, at, site, HexFormat.of().formatHex(salt), iterations, List.copyOf(parts), held));
            put(MANIFEST, manifest);
            put(SEALED, box.seal(manifest));
        }

        @Override
        public void close() throws IOException {
            zip.close();
        }
    }

    /** One that is opened with its passphrase. Whatever is wrong with it is told in a sentence. */
    static final class Reader implements AutoCloseable {

        private final ZipFile zip;
        private final Manifest manifest;
        private final SecretBox box;

        Reader(Path file, String passphrase) throws IOException {
            if (!Files.exists(file)) {
                throw new IOException("There is no file " + file + ".");
            }
            try {
                zip = new ZipFile(file.toFile());
            } catch (IOException | RuntimeException damaged) {
                throw new IOException(file + " is no backup, or only a part of one.", damaged);
            }
            try {
                byte[] clear = entry(MANIFEST);
                manifest = JSON.readValue(new String(clear, StandardCharsets.UTF_8), Manifest.class);
                if (manifest.iterations() > MOST_ITERATIONS) {
                    throw new IOException(
                            "The manifest of " + file + " cannot be read: nobody asks for so many iterations.");
                }
                if (manifest.form() != FORM) {
                    throw new IOException(file + " is of a later version (form " + manifest.form()
                            + "); this one reads " + FORM + ".");
                }
                box = SecretBox.ofPassphrase(
                        passphrase, HexFormat.of().parseHex(manifest.salt()), Math.max(1, manifest.iterations()));
                if (!Arrays.equals(opened(SEALED, "the passphrase is another one, or the file is damaged"), clear)) {
                    throw new IOException("The manifest of " + file + " was altered.");
                }
            } catch (JsonProcessingException | IllegalArgumentException strange) {
                zip.close();
                throw new IOException("The manifest of " + file + " cannot be read.", strange);
            } catch (IOException | RuntimeException | Error cannot) {
                zip.close();
                throw cannot;
            }
        }

        Manifest manifest() {
            return manifest;
        }

        /** Writes a part out; it is whole and as it was when this returns. */
        void part(Part part, OutputStream out) throws IOException {
            MessageDigest digest = sha256();
            for (int i = 0; i < part.pieces(); i++) {
                byte[] piece = opened(piece(part.name(), i), "it is damaged");
                digest.update(piece);
                out.write(piece);
            }
            if (!HexFormat.of().formatHex(digest.digest()).equals(part.sha256())) {
                throw new IOException("The part " + part.name() + " of the backup is not as it was written.");
            }
        }

        byte[] part(String name) throws IOException {
            ByteArrayOutputStream out = new ByteArrayOutputStream();
            part(
                    manifest.parts().stream()
                            .filter(each -> each.name().equals(name))
                            .findFirst()
                            .orElseThrow(() -> new IOException("The backup has no part " + name + ".")),
                    out);
            return out.toByteArray();
        }

        private byte[] opened(String name, String otherwise) throws IOException {
            try {
                return box.open(entry(name));
            } catch (IllegalArgumentException wrong) {
                throw new IOException("The backup cannot be opened at " + name + ": " + otherwise + ".", wrong);
            }
        }

        private byte[] entry(String name) throws IOException {
            ZipEntry entry = zip.getEntry(name);
            if (entry == null) {
                throw new IOException("This is no backup: it has no " + name + ".");
            }
            try (InputStream in = zip.getInputStream(entry)) {
                return in.readAllBytes();
            } catch (IOException | RuntimeException damaged) {
                throw new IOException("The backup is damaged at " + name + ".", damaged);
            }
        }

        @Override
        public void close() throws IOException {
            zip.close();
        }
    }

    private static String piece(String name, int number) {
        return String.format(Locale.ROOT, "parts/%s/%06d", name, number);
    }

    private static MessageDigest sha256() {
        try {
            return MessageDigest.getInstance("SHA-256");
        } catch (NoSuchAlgorithmException impossible) {
            throw new IllegalStateException(impossible);
        }
    }
}
