package dachshund.engine.archive;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.ObjectMapper;
import dachshund.core.archive.KeptFor;
import dachshund.core.archive.TagKey;
import dachshund.core.keep.Assigned;
import dachshund.core.keep.KeepingRuleDefinition;
import dachshund.core.tag.TagRef;
import dachshund.engine.journal.Journal;
import java.io.ByteArrayInputStream;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.ByteBuffer;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.util.List;
import java.util.zip.GZIPInputStream;
import java.util.zip.GZIPOutputStream;

/**
 * The tags of one rule in their order, as entries of the journal name them by number, and for how many days their values are kept. It stands in the journal beside them,
 * compressed JSON, so that the journal explains itself.
 */
record KeptTags(String rule, int days, int summaries, List<Tag> tags) {

    private static final ObjectMapper JSON = new ObjectMapper();

    /** A tag with its name as of then, for people. */
    record Tag(String source, String address, String name) {

        TagRef ref() {
            return new TagRef(source, address);
        }

        long key() {
            return TagKey.of(ref());
        }
    }

    KeptFor lasting() {
        return new KeptFor(days, summaries);
    }

    static KeptTags of(KeepingRuleDefinition rule, List<Assigned.Tag> assigned) {
        return new KeptTags(
                rule.id(),
                rule.days(),
                rule.summaries(),
                assigned.stream()
                        .map(each -> new Tag(
                                each.ref().source(),
                                each.ref().address(),
                                each.source().name() + " / " + each.info().fullName()))
                        .toList());
    }

    Journal.Design design() {
        ByteArrayOutputStream bytes = new ByteArrayOutputStream();
        try (GZIPOutputStream zip = new GZIPOutputStream(bytes)) {
            JSON.writeValue(zip, this);
        } catch (IOException never) {
            throw new UncheckedIOException(never);
        }
        byte[] document = bytes.toByteArray();
        try {
            return new Journal.Design(
                    ByteBuffer.wrap(MessageDigest.getInstance("SHA-256").digest(document))
                            .getLong(),
                    document);
        } catch (NoSuchAlgorithmException impossible) {
            throw new IllegalStateException(impossible);
        }
    }

    /** @throws IllegalArgumentException where it is no such list */
    static KeptTags read(byte[] document) {
        try (GZIPInputStream zip = new GZIPInputStream(new ByteArrayInputStream(document))) {
            return JSON.readValue(zip, KeptTags.class);
        } catch (JsonProcessingException strange) {
            throw new IllegalArgumentException("This is no list of kept tags.", strange);
        } catch (IOException broken) {
            throw new IllegalArgumentException("A list of kept tags cannot be read.", broken);
        }
    }
}
