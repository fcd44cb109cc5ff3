package dachshund.engine.lane;

import dachshund.core.definition.DefinitionCodec;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.destination.Place;
import dachshund.engine.journal.Journal;
import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.util.HexFormat;

/**
 * A recorder with its one Where for a destination, as rows were made under it; known by its content.
 *
 * @param asEntry the design as the journal keeps it
 */
public record LaneDesign(RecorderDefinition recorder, Journal.Design asEntry) {

    public static LaneDesign of(RecorderDefinition recorder) {
        return new LaneDesign(recorder, entry(DefinitionCodec.write(recorder).getBytes(StandardCharsets.UTF_8)));
    }

    /** @throws RuntimeException where the document is none that this version can read */
    static LaneDesign read(byte[] document) {
        RecorderDefinition recorder =
                (RecorderDefinition) DefinitionCodec.read(new String(document, StandardCharsets.UTF_8));
        return new LaneDesign(recorder, entry(document));
    }

    private static Journal.Design entry(byte[] document) {
        try {
            byte[] digest = MessageDigest.getInstance("SHA-256").digest(document);
            return new Journal.Design(ByteBuffer.wrap(digest).getLong(), document);
        } catch (NoSuchAlgorithmException impossible) {
            throw new IllegalStateException(impossible);
        }
    }

    /** The same content is the same design. */
    @Override
    public boolean equals(Object other) {
        return other instanceof LaneDesign design && design.key() == key();
    }

    @Override
    public int hashCode() {
        return Long.hashCode(key());
    }

    public long key() {
        return asEntry.key();
    }

    /** The key as 16 hexadecimal digits. */
    String name() {
        return HexFormat.of().toHexDigits(key());
    }

    RecorderDefinition.Where where() {
        return recorder.wheres().get(0);
    }

    /** Where its rows go, if they all go to one place; else each row says so. */
    public String place() {
        return new Place(where().database(), where().table()).text();
    }
}
