using CsCheck;
using NodaTime;
using SteadyLark.Core.Line;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Trips;
using Xunit;

namespace SteadyLark.Core.Tests.Line;

public class SentenceTests
{
    /// <summary>Each sentence with what it means, as <see cref="Meaning"/> writes it.</summary>
    public static TheoryData<string, string> Summary
    {
        get
        {
            var summary = new TheoryData<string, string>();
            foreach (
                var parts in File.ReadLines(Path.Combine(AppContext.BaseDirectory, "sentences.txt"))
                    .Where(l => l.Length > 0)
                    .Select(l => l.Split(" => "))
            )
            {
                summary.Add(parts[0], parts.Length > 1 ? parts[1] : "");
            }

            return summary;
        }
    }

    private static string Meaning(Sentence s) =>
        string.Join(
            " | ",
            new[]
            {
                string.Join(' ', s.Words),
                s.Event?.ToString().ToLowerInvariant(),
                s.Time?.ToString("HH:mm", null),
                s.MinutesAgo is { } ago ? $"{ago} min ago" : null,
                s.Seal is { } seal ? $"seal {seal}" : null,
                s.Report?.ToString().ToLowerInvariant(),
                s.Pieces is { } n ? $"{n} pieces" : null,
                s.LateBy is { } late ? $"{late} min late" : null,
                s.NewTime is { } t
                    ? $"new time {t.ToString("HH:mm", null)}{(s.NewDay is { } d ? $" in {d} d" : "")}{(s.NewWeekday is { } w ? $" on {w}" : "")}"
                    : null,
                s.ReceivedBy is { } by ? $"signed {by}" : null,
                s.Reason is { } why ? $"“{why}”" : null,
                s.AtWord is { } town ? $"maybe at {town}" : null,
            }.Where(p => !string.IsNullOrEmpty(p))
        );

    [Theory]
    [MemberData(nameof(Summary))]
    public void Is_parsed_as_intended(string summary, string meant) => Assert.Equal(meant, Meaning(Sentences.Read(summary)));

    [Fact]
    public void A_time_is_its_latest_occurrence_at_the_stop()
    {
        // It is 09:42 in Missoula: 09:40 is two minutes ago, 23:30 was yesterday.
        Assert.Equal(Some.Now - Duration.FromMinutes(2), Sentences.Read("2041 left 0940").When(Some.Now, Some.Mountain));
        Assert.Equal(Instant.FromUtc(2026, 11, 23, 6, 30), Sentences.Read("2041 left at 11:30pm").When(Some.Now, Some.Mountain));
    }

    [Fact]
    public void A_new_time_is_its_next_occurrence_at_the_stop()
    {
        var promised = Some.In(6);
        Assert.Equal(Instant.FromUtc(2026, 11, 23, 23, 30), Sentences.Read("2041 eta 1630").ExpectedAt(promised, Some.Now, Some.Mountain));
        Assert.Equal(Instant.FromUtc(2026, 11, 24, 15, 0), Sentences.Read("2041 eta 0800").ExpectedAt(promised, Some.Now, Some.Mountain));
        Assert.Equal(
            Instant.FromUtc(2026, 11, 24, 23, 30),
            Sentences.Read("2041 eta tomorrow 1630").ExpectedAt(promised, Some.Now, Some.Mountain)
        );
        Assert.Equal(promised + Duration.FromMinutes(90), Sentences.Read("2041 90 min late").ExpectedAt(promised, Some.Now, Some.Mountain));

        // Today is a Monday, 09:42 in Missoula.
        Assert.Equal(
            Instant.FromUtc(2026, 11, 24, 14, 0),
            Sentences.Read("2041 eta tue 0700").ExpectedAt(promised, Some.Now, Some.Mountain)
        );
        Assert.Equal(
            Instant.FromUtc(2026, 11, 23, 23, 30),
            Sentences.Read("2041 eta mon 1630").ExpectedAt(promised, Some.Now, Some.Mountain)
        );
        Assert.Equal(
            Instant.FromUtc(2026, 11, 30, 14, 0),
            Sentences.Read("2041 eta monday 0700").ExpectedAt(promised, Some.Now, Some.Mountain)
        );
        Assert.Equal(
            Instant.FromUtc(2026, 11, 29, 14, 0),
            Sentences.Read("2041 delayed until 7am sunday").ExpectedAt(promised, Some.Now, Some.Mountain)
        );
        Assert.Null(Sentences.Read("2041 delayed, snow").ExpectedAt(promised, Some.Now, Some.Mountain));
    }

    [Fact]
    public void The_stop_is_the_one_in_progress()
    {
        var pickup = Some.Stop(1, StopKind.Pickup, Some.Creamery, -3);
        var delivery = Some.Stop(2, StopKind.Delivery, Some.ColdStore, 5);
        var left = pickup with { Arrived = Some.In(-3), Left = Some.In(-2) };
        Assert.Equal(1, Sentences.StopFor(StopEvent.Arrived, [pickup, delivery])!.Id);
        Assert.Equal(2, Sentences.StopFor(StopEvent.Arrived, [left, delivery])!.Id);
        Assert.Null(Sentences.StopFor(StopEvent.Arrived, [left, delivery with { Arrived = Some.In(-1) }]));
        Assert.Null(Sentences.StopFor(StopEvent.Delivered, [pickup, delivery]));
        Assert.Equal(2, Sentences.StopFor(StopEvent.Delivered, [left, delivery])!.Id);
    }

    [Fact]
    public void No_input_crashes_it()
    {
        string[] words =
        [
            "2041",
            "left",
            "late",
            "delayed",
            "short",
            "3",
            "cases",
            "eta",
            "1630",
            "25:99",
            "tomorrow",
            "seal",
            "#",
            "because",
            ",",
            "note",
            "an",
            "hour",
            "and a half",
            "ago",
            "refused",
            "@",
            "9999999999999",
            "1.5",
            "h",
        ];
        Gen.Int[0, words.Length - 1]
            .Array[0, 12]
            .Select(w => string.Join(' ', w.Select(i => words[i])))
            .Sample(text => Sentences.Read(text).Words is not null, iter: 5000);
        Gen.String.Sample(text => Sentences.Read(text).Words is not null, iter: 5000);
    }
}
