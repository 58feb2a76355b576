import { Button, Form, Input, Segmented, Switch, Upload } from "antd";
import { useState } from "react";
import type { Letterhead } from "../api/client";
import { useLetterhead, useSetLetterhead, useSetLogo } from "../api/showing";
import { Waiting } from "../ui/Waiting";

type Paper = "A4" | "Letter";

/** The report of the run that is shown, and what its sender puts on top of it. */
export function ReportForm({ id }: { id: string }) {
  const letterhead = useLetterhead();
  const [paper, setPaper] = useState<Paper>("A4");
  const [appendix, setAppendix] = useState(true);
  const short = `short=${!appendix}`;
  return (
    <section className="report">
      <div className="head">
        <h1>Report</h1>
        <span className="soft">All changes and savings, for readers outside the project</span>
      </div>
      <div className="pad row wrap">
        <Segmented<Paper> options={["A4", "Letter"]} value={paper} onChange={setPaper} aria-label="Paper" />
        <label className="row">
          <Switch size="small" checked={appendix} onChange={setAppendix} /> Add appendix: every page, change and reason
        </label>
        <Button type="primary" href={`/api/sites/${id}/report.pdf?paper=${paper}&${short}`}>
          Download PDF
        </Button>
        <Button href={`/api/sites/${id}/report.html?${short}`}>Download HTML</Button>
      </div>
      <div className="pad row wrap">
        <Button href={`/api/sites/${id}/ledger.csv`}>Download ledger (CSV)</Button>
        <Button href={`/api/sites/${id}/ledger.json`}>Download ledger (JSON)</Button>
      </div>
      {letterhead.data ? <Top letterhead={letterhead.data} /> : <Waiting />}
    </section>
  );
}

function Top({ letterhead }: { letterhead: Letterhead }) {
  const set = useSetLetterhead();
  const setLogo = useSetLogo();
  const error = set.error ?? setLogo.error;
  return (
    <div className="pad letterhead">
      <h2>Letterhead of reports and reviews</h2>
      <p className="row wrap">
        {letterhead.logo && <img src={letterhead.logo} alt="Your logo" height={48} />}
        <Upload
          accept=".png,.jpg,.jpeg,.webp,.gif"
          showUploadList={false}
          beforeUpload={(file) => {
            setLogo.mutate(file);
            return false;
          }}
        >
          <Button size="small" loading={setLogo.isPending}>
            {letterhead.logo ? "Replace logo" : "Add logo"}
          </Button>
        </Upload>
        {letterhead.logo && (
          <Button size="small" type="link" onClick={() => set.mutate({ ...letterhead, logo: "" })}>
            Remove logo
          </Button>
        )}
      </p>
      <Form
        layout="vertical"
        initialValues={letterhead}
        onFinish={(body: Pick<Letterhead, "name" | "words">) => set.mutate({ ...letterhead, ...body })}
      >
        <Form.Item name="name" label="Your name">
          <Input maxLength={200} />
        </Form.Item>
        <Form.Item name="words" label="Introduction">
          <Input.TextArea rows={5} maxLength={4000} />
        </Form.Item>
        <Button htmlType="submit" loading={set.isPending}>
          Save letterhead
        </Button>{" "}
        {set.isSuccess && !set.isPending && <span className="soft">Saved</span>}
      </Form>
      {error && <p role="alert">{error.message}</p>}
    </div>
  );
}
