using CsCheck;
using SteadyLark.Core.Documents;
using Xunit;

namespace SteadyLark.Core.Tests.Documents;

public class PodsTests
{
    [Fact]
    public void Every_delivery_has_its_own_or_one_is_of_all()
    {
        Assert.Equal([1, 2], Pods.Missing([1, 2], []));
        Assert.Equal([2], Pods.Missing([1, 2], [1]));
        Assert.Empty(Pods.Missing([1, 2], [1, 2]));
        Assert.Empty(Pods.Missing([1, 2], [null]));
        Assert.Equal([DocumentKind.Bol], Pods.Present([DocumentKind.Pod, DocumentKind.Bol], [1, 2], [1]));
        Assert.Equal([DocumentKind.Pod, DocumentKind.Bol], Pods.Present([DocumentKind.Pod, DocumentKind.Bol], [1, 2], [2, 1]));
        Assert.Empty(Pods.Present([], [], []));
    }

    [Fact]
    public void A_load_has_its_pod_exactly_when_no_delivery_lacks_one() =>
        Gen.Select(Gen.Long[1, 4].Array[0, 4], Gen.Long[0, 4].Array[0, 5])
            .Sample(
                (stops, of) =>
                {
                    var deliveries = stops.Distinct().ToList();
                    var pods = of.Select(s => s == 0 ? (long?)null : s).ToList();
                    var kinds = pods.Count > 0 ? new[] { DocumentKind.Pod } : [];
                    var complete = pods.Count > 0 && (pods.Contains(null) || deliveries.TrueForAll(d => pods.Contains(d)));
                    Assert.Equal(complete, Pods.Present(kinds, deliveries, pods).Contains(DocumentKind.Pod));
                    Assert.All(Pods.Missing(deliveries, pods), d => Assert.DoesNotContain(d, pods));
                }
            );

    [Fact]
    public void A_document_names_a_delivery_of_its_load_and_only_a_pod_does()
    {
        Assert.Null(Pods.Of(DocumentKind.Photo, null, [1]).Value);
        Assert.Equal(1, Pods.Of(DocumentKind.Pod, 1, [1, 2]).Value);
        Assert.Equal("pod.stop", Pods.Of(DocumentKind.Pod, 3, [1, 2]).Problems.Single().Code);
        Assert.Equal("pod.stop", Pods.Of(DocumentKind.Bol, 1, [1, 2]).Problems.Single().Code);
    }

    [Fact]
    public void A_driver_sends_the_pod_of_the_delivery_reached_last()
    {
        Assert.Equal(1, Pods.Where(DocumentKind.Pod, [(1, true), (2, false)]));
        Assert.Equal(2, Pods.Where(DocumentKind.Pod, [(1, true), (2, true)]));
        Assert.Null(Pods.Where(DocumentKind.Pod, [(1, true)]));
        Assert.Null(Pods.Where(DocumentKind.Photo, [(1, true), (2, true)]));
        Assert.Null(Pods.Where(DocumentKind.Pod, [(1, false), (2, false)]));
    }
}
