package dachshund.core.archive;

import dachshund.core.tag.TagRef;
import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;

/**
 * The number under which the archive has a tag: the first 8 bytes of the SHA-256 of source and address. Whoever knows the tag
 * knows its number, also where no database answers; among a million tags two have the same one with a probability of
 * 3 in 100 million.
 */
public final class TagKey {

    private TagKey() {}

    public static long of(TagRef tag) {
        try {
            byte[] text = (tag.source() + " " + tag.address()).getBytes(StandardCharsets.UTF_8);
            return ByteBuffer.wrap(MessageDigest.getInstance("SHA-256").digest(text))
                    .getLong();
        } catch (NoSuchAlgorithmException impossible) {
            throw new IllegalStateException(impossible);
        }
    }
}
