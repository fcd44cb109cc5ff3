package dachshund.office.definition;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DefinitionCodec;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.tag.TagInfo;
import java.io.ByteArrayInputStream;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.zip.GZIPInputStream;
import java.util.zip.GZIPOutputStream;
import org.springframework.jdbc.core.simple.JdbcClient;
import org.springframework.stereotype.Component;

/** Lists of tags in our own database, each kept once under the hash of its content. */
@Component
class TagLists {

    private static final int REMEMBERED = 64;

    private final JdbcClient jdbc;
    private final Map<String, List<TagInfo>> remembered = new LinkedHashMap<>(16, 0.75f, true) {
        @Override
        protected boolean removeEldestEntry(Map.Entry<String, List<TagInfo>> eldest) {
            return size() > REMEMBERED;
        }
    };

    /** A document without its tags, and the hash of the list; null where it has none. */
    record Apart(String document, String hash) {}

    TagLists(JdbcClient jdbc) {
        this.jdbc = jdbc;
    }

    /** Keeps the tags of a source and gives its document without them; other documents are left as they are. */
    Apart apart(Definition definition) {
        if (!(definition instanceof SourceDefinition source) || source.tags().isEmpty()) {
            return new Apart(DefinitionCodec.write(definition), null);
        }
        byte[] json = DefinitionCodec.writeTags(source.tags()).getBytes(StandardCharsets.UTF_8);
        String hash = hash(json);
        boolean known = jdbc.sql("SELECT COUNT(*) FROM tag_list WHERE hash = ?")
                        .param(hash)
                        .query(Integer.class)
                        .single()
                > 0;
        if (!known) {
            jdbc.sql("INSERT IGNORE INTO tag_list (hash, tags) VALUES (?, ?)")
                    .params(hash, zip(json))
                    .update();
        }
        remember(hash, source.tags());
        return new Apart(DefinitionCodec.write(source.withTags(List.of())), hash);
    }

    /** The definition of a document, with its tags. */
    Definition whole(String document, String hash) {
        Definition definition = DefinitionCodec.read(document);
        return hash != null && definition instanceof SourceDefinition source ? source.withTags(list(hash)) : definition;
    }

    /** The tags of a list. */
    List<TagInfo> list(String hash) {
        synchronized (remembered) {
            List<TagInfo> known = remembered.get(hash);
            if (known != null) {
                return known;
            }
        }
        byte[] packed = jdbc.sql("SELECT tags FROM tag_list WHERE hash = ?")
                .param(hash)
                .query(byte[].class)
                .single();
        List<TagInfo> tags = DefinitionCodec.readTags(new String(unzip(packed), StandardCharsets.UTF_8));
        remember(hash, tags);
        return tags;
    }

    private void remember(String hash, List<TagInfo> tags) {
        synchronized (remembered) {
            remembered.put(hash, tags);
        }
    }

    /** Removes lists that no version and no draft has any more. */
    void tidy() {
        jdbc.sql(
                        """
                DELETE FROM tag_list WHERE hash NOT IN (SELECT tag_list FROM definition_version WHERE tag_list IS NOT NULL)
                  AND hash NOT IN (SELECT tag_list FROM draft WHERE tag_list IS NOT NULL)""")
                .update();
    }

    private static String hash(byte[] bytes) {
        try {
            return HexFormat.of().formatHex(MessageDigest.getInstance("SHA-256").digest(bytes));
        } catch (NoSuchAlgorithmException impossible) {
            throw new IllegalStateException(impossible);
        }
    }

    private static byte[] zip(byte[] bytes) {
        ByteArrayOutputStream packed = new ByteArrayOutputStream();
        try (GZIPOutputStream zip = new GZIPOutputStream(packed)) {
            zip.write(bytes);
        } catch (IOException impossible) {
            throw new UncheckedIOException(impossible);
        }
        return packed.toByteArray();
    }

    private static byte[] unzip(byte[] packed) {
        try (GZIPInputStream zip = new GZIPInputStream(new ByteArrayInputStream(packed))) {
            return zip.readAllBytes();
        } catch (IOException damaged) {
            throw new UncheckedIOException("A list of tags in our own database is damaged.", damaged);
        }
    }
}
