namespace SteadyLark.Core.Documents;

/// <summary>Documents a customer requires before a load is billed.</summary>
public static class RequiredDocuments
{
    /// <summary>Without billing settings of the customer's own: the POD.</summary>
    public static readonly IReadOnlyList<DocumentKind> Default = [DocumentKind.Pod];

    /// <summary>The required documents that are missing, in the order of the requirement.</summary>
    /// <param name="required">The customer's requirement; null for <see cref="Default"/>, empty when nothing is required.</param>
    /// <param name="present">The load's documents.</param>
    public static IReadOnlyList<DocumentKind> Missing(IReadOnlyList<DocumentKind>? required, IEnumerable<DocumentKind> present) =>
        (required ?? Default).Except(present).ToList();
}
