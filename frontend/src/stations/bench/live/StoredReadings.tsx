import { type BenchRow, useClearReadings, useStoredReadings } from "@/shared/api/live";
import { Button } from "@/shared/ui/bits";

const OLD_H = 48;

/** What a bench has stored: nothing of it goes unless a person says so. */
export function StoredReadings({ bench }: { bench: BenchRow }) {
  const stored = useStoredReadings(bench.id, OLD_H);
  const clear = useClearReadings();
  if (!stored.data?.posts) return null;
  const { posts, megabytes, older_posts } = stored.data;
  return (
    <p className="flex flex-wrap items-center gap-3 text-small" data-stored>
      <span>
        Stored: {posts.toLocaleString()} posts of readings,{" "}
        {megabytes < 0.1 ? "less than 0.1" : megabytes.toFixed(megabytes < 10 ? 1 : 0)} MB. Runs that are over keep their own
        copy.
      </span>
      {older_posts > 0 ? (
        <Button
          small
          disabled={clear.isPending}
          onClick={() =>
            confirm(`Remove ${older_posts.toLocaleString()} posts that are older than two days? They cannot be brought back.`) &&
            clear.mutate({ bench: bench.id, older_than_h: OLD_H })
          }
        >
          Remove {older_posts.toLocaleString()} older than two days
        </Button>
      ) : (
        <span className="text-faint">None is older than two days.</span>
      )}
      {clear.error && <span className="text-error">{clear.error.message}</span>}
    </p>
  );
}
