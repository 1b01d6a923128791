using SteadyLark.Store.Basics;
using SteadyLark.Store.Line;
using Xunit;

namespace SteadyLark.Store.Tests.Line;

public class Finding(Stocked s) : IClassFixture<Stocked>
{
    [Theory]
    [InlineData("snowberry", "Snowberry Creamery")]
    [InlineData("snowbery cremery", "Snowberry Creamery")]
    [InlineData("great falls cream", "Snowberry Creamery")]
    [InlineData("okafor", "Moses Okafor")]
    [InlineData("okafro", "Moses Okafor")]
    [InlineData("forks truking", "Two Forks Trucking")]
    [InlineData("two froks", "Two Forks Trucking")]
    [InlineData("9000100", "Two Forks Trucking")]
    [InlineData("northgate spokane", "Northgate Cold Storage")]
    public async Task Records_are_found_by_their_words_even_misspelled(string typed, string title)
    {
        await using var db = await s.Db.Source.OpenConnectionAsync();
        Assert.Contains(await FindStore.Find(db, typed.Split(' '), null, 5), f => f.Title == title);
    }

    [Theory]
    [InlineData("9000101")]
    [InlineData("%")]
    [InlineData("zzzz")]
    public async Task Unknown_words_find_nothing_and_a_mistyped_number_is_another_number(string typed)
    {
        await using var db = await s.Db.Source.OpenConnectionAsync();
        Assert.Empty(await FindStore.Find(db, [typed], null, 5));
    }

    [Fact]
    public async Task A_load_is_found_by_its_reference_and_its_freight()
    {
        await s.Refusal(async w =>
        {
            var load = await s.Load(w, "2041");
            await w.Db.Run("update loads set reference = 'PO 77120' where id = @l", ("l", load));
            await w.Db.Run("insert into freight_lines (load_id, seq, description) values (@l, 1, 'butter, salted')", ("l", load));
            await w.Db.Run("select find_load(@l)", ("l", load));
        });
        await using var db = await s.Db.Source.OpenConnectionAsync();
        foreach (var typed in new[] { "2041", "77120", "buter snowberry" })
        {
            Assert.Equal("2041", (await FindStore.Find(db, typed.Split(' '), ["load"], 5))[0].Title);
        }
    }
}
